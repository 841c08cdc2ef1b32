import { findAnswer, type Work } from "@/core/kit/work";
import { handleApi } from "../api/handle";
import { forgetSettings } from "../settings";
import { founderLink } from "./people";
import type { Role } from "./roles";

/** For tests: people who sign in and ask as browsers and scripts do. */

export const PASSWORD = "several words are easy";

export interface Answer {
  status: number;
  body: Record<string, unknown> & { error?: { code: string; message: string; work?: Work } };
  /** The session that the answer opens. */
  cookie: string | null;
  /** What makes the browser a known one. */
  known: string | null;
}

export type Caller = (method: string, path: string, body?: unknown) => Promise<Answer>;

/** Asks as a browser with this cookie, or a script with this token, would. */
export function caller(login: { cookie?: string | null; token?: string; from?: string } = {}): Caller {
  return async (method, path, body) => {
    const headers: Record<string, string> = { "content-type": "application/json" };
    if (login.cookie) headers["cookie"] = `theme=dark; ${login.cookie}`;
    if (login.token) headers["authorization"] = `Bearer ${login.token}`;
    headers["x-hot-shelf-from"] = login.from ?? "10.0.0.1";
    const init = { method, headers, ...(body === undefined ? {} : { body: JSON.stringify(body) }) };
    const response = await handleApi(new Request(`http://localhost/api/v1/${path}`, init), path.split("?")[0]!);
    const cookies = response.headers.getSetCookie().map((cookie) => cookie.split(";")[0]!);
    return {
      status: response.status,
      body: (await response.json()) as Answer["body"],
      cookie: cookies.find((cookie) => cookie.startsWith("__Host-hot-shelf=")) ?? null,
      known: cookies.find((cookie) => cookie.startsWith("__Host-hot-shelf-known=")) ?? null,
    };
  };
}

export const nobody = caller();

/** Has the first person come in. */
export async function comeInFirst(): Promise<Caller> {
  process.env["HOTSHELF_SIGN_IN"] = "true";
  forgetSettings();
  const given = { email: "Ada@shop.example", name: "Ada", password: PASSWORD };
  const made = await nobody("POST", `invitations/${await founderLink()}`, given);
  return caller({ cookie: made.cookie });
}

/** The secret of the link by which an owner invites somebody. */
export async function linkFrom(owner: Caller, shop: string, email: string, role: Role): Promise<string> {
  const { body } = await owner("POST", `${shop}/people`, { email, role });
  return (body["link"] as string).replace("/welcome/", "");
}

/** Has somebody come in whom an owner invites. */
export async function comeIn(owner: Caller, shop: string, email: string, role: Role): Promise<Caller> {
  const secret = await linkFrom(owner, shop, email, role);
  const accepted = await nobody("POST", `invitations/${secret}`, { name: email.split("@")[0], password: PASSWORD });
  return caller({ cookie: accepted.cookie });
}

/** The ID of somebody with a role in a workspace. */
export async function idOf(owner: Caller, shop: string, email: string): Promise<string> {
  const { people } = (await owner("GET", `${shop}/people`)).body as { people: { id: string; email: string }[] };
  return people.find((one) => one.email === email)!.id;
}

export const signIn = (email: string, password: string, more: object = {}, from?: string) =>
  caller(from ? { from } : {})("POST", "session", { email, password, ...more });

/** Does the work that was asked for. */
export function doneFor(work: Work): { challenge: string; answer: number } {
  return { challenge: work.challenge, answer: findAnswer(work, 0, 2 ** 30)! };
}
