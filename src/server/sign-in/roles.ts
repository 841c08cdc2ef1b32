/** What a person may do in a workspace, each with all that stands before it. */
export const ROLES = ["viewer", "editor", "sender", "owner"] as const;
export type Role = (typeof ROLES)[number];

/**
 * Who may ask for an operation: somebody with a role in its workspace; outside workspaces anyone at all, anyone who has signed
 * in, or a founder.
 */
export type Needs = Role | "anyone" | "member" | "founder";

export const ROLE_WORDS: Record<Role, string> = {
  viewer: "looks at everything and changes nothing",
  editor: "fills the basket, and changes fields, shelves and notes",
  sender: "also dispatches, takes back, and changes the workspace's settings",
  owner: "also decides where feeds come from, who may come in, and about tokens",
};

/** Whether a role holds another one. */
export function holds(role: Role | null, needed: Role): boolean {
  return role !== null && ROLES.indexOf(role) >= ROLES.indexOf(needed);
}
