import { createCipheriv, createDecipheriv, randomBytes } from "node:crypto";
import { existsSync, linkSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { homedir } from "node:os";
import path from "node:path";
import { giveUp } from "@/core/kit/outcome";
import { settings } from "./settings";

const KEY_BYTES = 32;
/** NIST SP 800-38D: 96 bits, drawn anew for each text. */
const NONCE_BYTES = 12;

/** Where the key lies: never in the data folder, so that whoever has a copy of that can't open what is sealed in it. */
function keyFile(): string {
  const { HOTSHELF_KEY_FILE } = settings();
  if (HOTSHELF_KEY_FILE) return path.resolve(/* turbopackIgnore: true */ HOTSHELF_KEY_FILE);
  const config = process.env["XDG_CONFIG_HOME"] || path.join(homedir(), ".config");
  return path.join(config, "hot-shelf", "key");
}

/** The key, made on first use. */
function readKey(): Buffer {
  const file = keyFile();
  try {
    mkdirSync(path.dirname(file), { recursive: true, mode: 0o700 });
    if (!existsSync(file)) {
      // Written aside and linked into place, so that nobody ever reads half of it, and the first of several stays.
      const made = `${file}.${randomBytes(6).toString("hex")}`;
      writeFileSync(made, `${randomBytes(KEY_BYTES).toString("base64")}\n`, { flag: "wx", mode: 0o600 });
      try {
        linkSync(made, file);
      } finally {
        rmSync(made);
      }
    }
  } catch (error) {
    // Another process may have made it just now.
    const { code } = error as NodeJS.ErrnoException;
    if (code !== "EEXIST") {
      const hint = "Make its folder writable, or name another file with HOTSHELF_KEY_FILE.";
      giveUp("key-unwritable", `The key that passwords are sealed with can't be kept in ${file}.`, hint);
    }
  }
  const key = Buffer.from(readFileSync(file, "utf8").trim(), "base64");
  if (key.length !== KEY_BYTES) {
    giveUp("key-damaged", `${file} does not hold a key of ${KEY_BYTES} bytes.`, "Put the right key in its place.");
  }
  return key;
}

/** Seals a text (AES-256-GCM) so that only an installation with the same key can open it. */
export function seal(text: string): string {
  const nonce = randomBytes(NONCE_BYTES);
  const cipher = createCipheriv("aes-256-gcm", readKey(), nonce);
  const sealed = Buffer.concat([cipher.update(text, "utf8"), cipher.final()]);
  return [nonce, cipher.getAuthTag(), sealed].map((part) => part.toString("base64url")).join(".");
}

/** Opens what {@link seal} made. @throws FailureError when it was sealed with another key, or changed since */
export function unseal(sealed: string): string {
  const [nonce, tag, text] = sealed.split(".").map((part) => Buffer.from(part, "base64url"));
  try {
    const decipher = createDecipheriv("aes-256-gcm", readKey(), nonce!);
    decipher.setAuthTag(tag!);
    return decipher.update(text!, undefined, "utf8") + decipher.final("utf8");
  } catch {
    return giveUp(
      "password-sealed-elsewhere",
      "The password can't be opened: it was sealed with another key than this installation's.",
      "Enter it once more, or put the old key back.",
    );
  }
}
