import { statfs } from "node:fs/promises";
import type { Failure } from "@/core/kit/outcome";
import { dataDir } from "./settings";

/** Bytes that can still be written on the disk of the data folder. */
export async function freeBytes(): Promise<number> {
  const { bavail, bsize } = await statfs(dataDir());
  return bavail * bsize;
}

/** What a person is told when the disk under the data folder refuses to be written; null for any other error. */
export function storageFailure(error: unknown): Failure | null {
  const told = [error, (error as Error | null)?.cause]
    .map((one) => `${(one as { code?: string } | null)?.code} ${one}`)
    .join();
  if (/SQLITE_FULL|ENOSPC|database or disk is full/.test(told)) {
    return {
      code: "disk-full",
      message: "The server's disk is full. Nothing was changed.",
      hint: "Whoever runs the server can make room in the data folder; then try again.",
    };
  }
  if (/SQLITE_READONLY|EROFS|readonly database/.test(told)) {
    return {
      code: "disk-read-only",
      message: "The server's data folder can't be written. Nothing was changed.",
      hint: "Whoever runs the server should look at its owner and its disk; then try again.",
    };
  }
  return null;
}
