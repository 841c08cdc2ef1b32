import type { Change, Design } from "@/core/experiments/changes";

/** What another page wants tried: it opens the form with it. */
export interface HandOver {
  ready: string;
  change?: Change;
  design?: Design;
  items?: string[];
  campaigns?: string[];
}

const KEY = "hot-shelf-experiment";

/** Leaves what is to be tried for the page of experiments, which is opened next in this tab. */
export function handOver(what: HandOver): void {
  sessionStorage.setItem(KEY, JSON.stringify(what));
}

/** Takes what was left, once. */
export function takeHandOver(): HandOver | null {
  const left = sessionStorage.getItem(KEY);
  if (left === null) return null;
  sessionStorage.removeItem(KEY);
  return JSON.parse(left) as HandOver;
}
