import type { ChildProcess } from "node:child_process";

export const WRONG_SETUP: number;
export function keepRunning(
  start: () => ChildProcess,
  limits?: { most?: number; within?: number; pause?: number },
  onEnd?: (code: number, how: string) => void,
): { now: () => ChildProcess; stop: (signal?: NodeJS.Signals) => void };
