import { LOOPBACK, settings } from "../settings";

/** Whether a Host header names this server: a page elsewhere can give its own name the address of this machine. */
export function isOwnHost(host: string | null): boolean {
  if (host === null) return true;
  const name = host.trim().toLowerCase().replace(/:\d+$/, "");
  const { HOST, HOTSHELF_ALLOWED_HOSTS } = settings();
  return LOOPBACK.test(name) || name === HOST.toLowerCase() || HOTSHELF_ALLOWED_HOSTS.has(name);
}
