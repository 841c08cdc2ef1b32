import type { Cube } from "@/core/results/cube";

/** How the lines of a cube are told apart by a level, and what each code is called. */
export interface LevelCodes {
  label: [one: string, many: string];
  /** The code of a cube's line; −1 leaves it out. */
  codeOf(cube: Cube): (line: number) => number;
  /** The code of an item number, for store sales; null where the level is not about items. */
  ofItem: ((no: number) => number) | null;
  keyOf(code: number): string;
  nameOf(code: number): string;
  /** The picture's address, for items. */
  imageOf?(code: number): string;
  /** The code that a key stands for; −1 for none. */
  codeOfKey(key: string): number;
  /** The same for campaigns and ad groups, with a code made for a key that results do not know. */
  codeFor?(key: string): number;
}
