import { AsyncLocalStorage } from "node:async_hooks";
import { userInfo } from "node:os";

const acting = new AsyncLocalStorage<string>();

/** What happens by itself, such as a feed that is read on schedule. */
export const NOBODY = "Hot Shelf";

/** Does work in the name of a person: what it logs, queues and decides carries that name. */
export function actAs<T>(who: string, work: () => T): T {
  return acting.run(who, work);
}

/** In whose name this is done. */
export function person(): string {
  return acting.getStore() ?? NOBODY;
}

let owner: string | null = null;

/** Who works at this machine: the account that runs the server. */
export function ownerOfMachine(): string {
  if (owner === null) {
    try {
      owner = userInfo().username || "owner";
    } catch {
      owner = "owner";
    }
  }
  return owner;
}

/** Who makes a request: the owner at a page of ours, or a script in the owner's name. */
export function personOf(headers: Headers): string {
  const isPage = headers.get("sec-fetch-site") !== null;
  return isPage ? ownerOfMachine() : `${ownerOfMachine()} (script)`;
}
