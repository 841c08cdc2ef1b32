/**
 * How somebody is called wherever it stands who did something: by name, with the address beside it, which is theirs alone and
 * never changes. A script carries the address of whoever made it. On a machine where nobody signs in there is no address.
 */
export function called(name: string, email: string | null): string {
  return email === null ? name : `${name} <${email}>`;
}

/** What {@link called} made, in its parts. */
export function partsOf(who: string): { name: string; email: string | null } {
  const [, name, email] = /^(.*) <([^<>]+)>$/s.exec(who) ?? [];
  return email === undefined ? { name: who, email: null } : { name: name!, email };
}

/** Whose doing something is: the address, or the name where there is none. */
export function identityOf(who: string): string {
  return partsOf(who).email ?? who;
}
