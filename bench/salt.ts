import { randomBytes } from "node:crypto";

const option = (name: string) =>
  process.argv.find((argument) => argument.startsWith(`--${name}=`))?.slice(name.length + 3);

/** What worlds of this run are drawn from: given as `--salt=`, or fresh; printed, so that a run can be made again. */
export const SALT = option("salt") ?? randomBytes(4).toString("hex");

/** A count given as `--worlds=`, `--items=` and so on. */
export function countOption(name: string, otherwise: number): number {
  const given = Number(option(name));
  return Number.isInteger(given) && given > 0 ? given : otherwise;
}
