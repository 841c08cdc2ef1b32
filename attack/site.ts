import { spawn, type ChildProcess } from "node:child_process";
import { cpSync, mkdtempSync, readFileSync, rmSync } from "node:fs";
import { Agent, request as httpRequest } from "node:http";
import { tmpdir } from "node:os";
import path from "node:path";
import { demoFolder } from "../e2e/make-demo";
import { waitForHealth } from "../scripts/lib.mjs";

export const PASSWORD = "several words are easy";
export const PORT = Number(process.env["E2E_PORT"] ?? "4400") + 85;
export const SITE = `http://127.0.0.1:${PORT}`;

/** Printed, so that a red run can be had again with `HOTSHELF_ATTACK_SEED`. */
export const SEED = process.env["HOTSHELF_ATTACK_SEED"] ?? String(Date.now());

/** A production server at which people sign in, with a copy of the demo. */
export class AttackedSite {
  private said = "";

  private constructor(
    private readonly server: ChildProcess,
    private readonly folder: string,
  ) {}

  static async open(): Promise<AttackedSite> {
    const folder = mkdtempSync(path.join(tmpdir(), "hot-shelf-attacked-"));
    cpSync(demoFolder(), folder, { recursive: true });
    const server = spawn(process.execPath, ["scripts/e2e-server.mjs"], {
      stdio: ["pipe", "pipe", "inherit"],
      env: {
        ...process.env,
        PORT: String(PORT),
        HOTSHELF_DATA_DIR: folder,
        HOTSHELF_SIGN_IN: "true",
        HOTSHELF_KEY_FILE: `${folder}.key`,
        LOG_LEVEL: "silent",
      },
    });
    const site = new AttackedSite(server, folder);
    server.stdout!.on("data", (text: Buffer) => (site.said += text.toString()));
    await waitForHealth(SITE, 90);
    return site;
  }

  async close(): Promise<void> {
    const ended = new Promise((resolve) => this.server.on("exit", resolve));
    this.server.kill("SIGTERM");
    await ended;
    rmSync(this.folder, { recursive: true, force: true });
    rmSync(`${this.folder}.key`, { force: true });
  }

  /** The secret of the link by which the first person comes in. */
  async firstSecret(): Promise<string> {
    for (;;) {
      const found = /welcome\/(\S+)/.exec(this.said)?.[1];
      if (found) return found;
      await new Promise((resolve) => setTimeout(resolve, 100));
    }
  }

  /** The processes of a program, by a part of its path, such as `server/web/main`. */
  processes(program: string): number[] {
    const { pid } = this.server;
    const children = readFileSync(`/proc/${pid}/task/${pid}/children`, "utf8").trim().split(" ").filter(Boolean);
    return children.map(Number).filter((child) => {
      try {
        return readFileSync(`/proc/${child}/cmdline`, "utf8").includes(program);
      } catch {
        return false;
      }
    });
  }
}

export interface Answer {
  status: number;
  text: string;
  cookies: string[];
}

/** Somebody with connections of their own, which are used again and again. */
export class Person {
  private readonly agent = new Agent({ keepAlive: true, maxSockets: 2 });

  constructor(
    readonly name: string,
    private cookie = "",
  ) {}

  /** Sends a request as it is, a body on any method included. @throws where there is no answer in time */
  send(method: string, where: string, body?: string, headers: Record<string, string> = {}): Promise<Answer> {
    return new Promise((resolve, reject) => {
      const sent = httpRequest(
        {
          ...{ host: "127.0.0.1", port: PORT, path: where, method, agent: this.agent, timeout: 15_000 },
          headers: {
            ...(this.cookie ? { cookie: this.cookie } : {}),
            ...(body === undefined
              ? {}
              : { "content-type": "application/json", "content-length": Buffer.byteLength(body) }),
            ...headers,
          },
        },
        (answer) => {
          let text = "";
          answer.setEncoding("utf8").on("data", (part: string) => (text += part));
          answer.on("end", () =>
            resolve({ status: answer.statusCode ?? 0, text, cookies: answer.headers["set-cookie"] ?? [] }),
          );
          answer.on("error", reject);
        },
      );
      sent.on("timeout", () => sent.destroy(new Error(`no answer to ${method} ${where}`)));
      sent.on("error", reject);
      sent.end(body);
    });
  }

  api(method: string, where: string, body?: object): Promise<Answer> {
    return this.send(method, `/api/v1/${where}`, body === undefined ? undefined : JSON.stringify(body));
  }

  /** Comes in by a link. */
  async comeIn(secret: string, email?: string): Promise<this> {
    const given = { name: this.name, password: PASSWORD, ...(email ? { email } : {}) };
    const { cookies } = await this.api("POST", `invitations/${secret}`, given);
    this.cookie = cookies.map((cookie) => cookie.split(";")[0]).join("; ");
    return this;
  }

  get cookies(): string {
    return this.cookie;
  }
}
