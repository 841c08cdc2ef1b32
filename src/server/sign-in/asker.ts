import { called } from "@/core/kit/who";
import { personOf } from "../person";
import { isSignInOn } from "../settings";
import { roleOf } from "./people";
import type { Role } from "./roles";
import { SESSION_COOKIE } from "./cookie";
import { findSession, type OpenSession } from "./sessions";
import { findToken } from "./tokens";

/** Who makes a request, and what they may do. */
export interface Asker {
  /** How they are called in logs; see `called`. */
  who: string;
  /** Null where nobody signs in, or a script asks. */
  session: OpenSession | null;
  isFounder: boolean;
  /** Whether they proved who they are a short while ago, or need not. */
  isProved: boolean;
  roleIn(workspace: string): Promise<Role | null>;
}

/** The web server's word on the address that a request came from; see `server/web/main.ts`. */
export const FROM_HEADER = "x-hot-shelf-from";

/** Where a request comes from, for the log and the throttle. */
export function fromOf(headers: Headers): string {
  return headers.get(FROM_HEADER) ?? "this machine";
}

function cookieOf(headers: Headers): string | null {
  const found = (headers.get("cookie") ?? "").split(/;\s*/).find((part) => part.startsWith(`${SESSION_COOKIE}=`));
  return found ? found.slice(SESSION_COOKIE.length + 1) : null;
}

/** Who signed in with the cookie of these headers. */
export async function sessionOf(headers: Headers): Promise<OpenSession | null> {
  const secret = cookieOf(headers);
  return secret ? findSession(secret) : null;
}

/** Who makes a request: the owner of this machine where nobody signs in, else a person or a script; null for nobody known. */
export async function askerOf(headers: Headers): Promise<Asker | null> {
  if (!isSignInOn()) {
    return { who: personOf(headers), session: null, isFounder: true, isProved: true, roleIn: async () => "owner" };
  }
  const bearer = /^Bearer (\S+)$/i.exec(headers.get("authorization") ?? "")?.[1];
  if (bearer) {
    const token = await findToken(bearer);
    if (!token) return null;
    const roleIn = async (workspace: string) => (workspace === token.workspace ? token.role : null);
    return {
      who: called(`${token.name} (script)`, token.makerEmail),
      session: null,
      isFounder: false,
      isProved: true,
      roleIn,
    };
  }
  const session = await sessionOf(headers);
  if (!session) return null;
  const { person, isProved } = session;
  return {
    ...{ who: called(person.name, person.email), session, isFounder: person.isFounder, isProved },
    roleIn: (workspace) => roleOf(person, workspace),
  };
}
