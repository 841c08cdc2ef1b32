import { settings } from "../settings";

/** Names that this machine answers to without being told: itself. */
const LOOPBACK = /^(?:localhost|127(?:\.\d{1,3}){3}|\[::1\])$/;

/** Whether a Host header names this server: a page elsewhere can give its own name the address of this machine. */
export function isOwnHost(host: string | null): boolean {
  if (host === null) return true;
  const name = host.trim().toLowerCase().replace(/:\d+$/, "");
  const { HOST, HOTSHELF_ALLOWED_HOSTS } = settings();
  return LOOPBACK.test(name) || name === HOST.toLowerCase() || HOTSHELF_ALLOWED_HOSTS.has(name);
}
