import { FailureError, type Failure } from "@/core/kit/outcome";
import { noteAccess } from "./accounts";
import { fromOf, type Asker } from "./asker";
import { holds, ROLE_WORDS, type Needs, type Role } from "./roles";

/** The answer for a workspace that is not there, and the same for one that somebody has no role in. */
export function noSuchWorkspace(slug: string): Failure {
  return { code: "workspace-unknown", message: `There is no workspace "${slug}".` };
}

function lacking(needed: Role, held: Role): Failure {
  return {
    code: "forbidden-role",
    message: `This needs the role ${needed}, who ${ROLE_WORDS[needed]}; yours is ${held}.`,
    hint: "An owner of the workspace can change it. Nothing was done.",
  };
}

/** For a part of an operation that needs more than the whole. @throws FailureError where somebody does not hold the role */
export async function mustHold(asker: Asker | null, workspace: string, role: Role): Promise<void> {
  const held = (await asker?.roleIn(workspace)) ?? null;
  if (!holds(held, role)) throw new FailureError(held === null ? noSuchWorkspace(workspace) : lacking(role, held));
}

interface Guarded {
  method: string;
  path: string;
  role: Needs;
  isGrave?: true;
}

/** Why somebody may not ask for an operation; null where they may. Refusals are noted. */
export async function keptOut(
  { headers }: { headers: Headers },
  operation: Guarded,
  workspace: string | undefined,
  asker: Asker | null,
): Promise<Failure | null> {
  const { role, isGrave, method, path } = operation;
  if (role === "anyone") return null;
  if (!asker) {
    return {
      code: "sign-in-needed",
      message: "Sign in first.",
      hint: "A script sends a token: Authorization: Bearer …",
    };
  }
  const refuse = async (failure: Failure) => {
    await noteAccess({ who: asker.who, what: `refused: ${method} ${path}`, workspace, from: fromOf(headers) });
    return failure;
  };
  if (role === "founder" && !asker.isFounder) {
    return refuse({ code: "forbidden-founder", message: "Only whoever set this installation up can do this." });
  }
  if (workspace !== undefined && role !== "member" && role !== "founder") {
    const held = await asker.roleIn(workspace);
    // Whoever has no role is not told whether there is such a workspace.
    if (held === null) return refuse(noSuchWorkspace(workspace));
    if (!holds(held, role)) return refuse(lacking(role, held));
  }
  if (isGrave && !asker.isProved) {
    return {
      code: "forbidden-unproved",
      message: "Give your password once more for this; the last time is over an hour ago.",
    };
  }
  return null;
}
