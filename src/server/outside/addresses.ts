import { BlockList, isIP } from "node:net";

const NOT_PUBLIC = new BlockList();
for (const [address, bits] of [
  ["0.0.0.0", 8],
  ["10.0.0.0", 8],
  ["100.64.0.0", 10],
  ["127.0.0.0", 8],
  ["169.254.0.0", 16],
  ["172.16.0.0", 12],
  ["192.0.0.0", 24],
  ["192.0.2.0", 24],
  ["192.88.99.0", 24],
  ["192.168.0.0", 16],
  ["198.18.0.0", 15],
  ["198.51.100.0", 24],
  ["203.0.113.0", 24],
  ["224.0.0.0", 4],
  ["240.0.0.0", 4],
] as const) {
  NOT_PUBLIC.addSubnet(address, bits, "ipv4");
}
for (const [address, bits] of [
  // IPv4 addresses written as IPv6 in ways that are no longer used (::/96 holds :: and ::1 too), and translations of them.
  ["::", 96],
  ["::ffff:0:0:0", 96],
  ["64:ff9b::", 96],
  ["64:ff9b:1::", 48],
  // Tunnels that carry an IPv4 address inside: 6to4 and Teredo.
  ["2002::", 16],
  ["2001::", 32],
  ["100::", 64],
  ["2001:db8::", 32],
  ["fc00::", 7],
  ["fe80::", 10],
  ["fec0::", 10],
  ["ff00::", 8],
] as const) {
  NOT_PUBLIC.addSubnet(address, bits, "ipv6");
}

/**
 * Whether an IP address is reachable for everyone: not loopback, private, link-local, shared or reserved (RFC 6890).
 * An IPv4 address written as IPv6 counts by what it stands for. A text that is no address is not public.
 */
export function isPublicAddress(address: string): boolean {
  const mapped = /^::ffff:(\d+\.\d+\.\d+\.\d+)$/i.exec(address)?.[1];
  const hex = /^::ffff:([0-9a-f]{1,4}):([0-9a-f]{1,4})$/i.exec(address);
  const plain = mapped ?? (hex ? fromHex(hex[1]!, hex[2]!) : address);
  const family = isIP(plain);
  return family !== 0 && !NOT_PUBLIC.check(plain, family === 4 ? "ipv4" : "ipv6");
}

function fromHex(high: string, low: string): string {
  const [a, b] = [parseInt(high, 16), parseInt(low, 16)];
  return [a >> 8, a & 255, b >> 8, b & 255].join(".");
}
