import { NOT_KNOWN } from "./availability";
import { FIELD, FIELD_KEYS, type FieldKey } from "./fields";

/** Bits of what a refresh changed in an item. Stored, so the order of the fields must stay. */
const FIELD_BIT = new Map(FIELD_KEYS.map((key, i) => [key, 1 << i] as const));
/** Only columns that no field uses changed. */
export const OTHER_COLUMNS = 1 << 25;
export const SOLD_OUT = 1 << 26;
export const BACK_IN_STOCK = 1 << 27;

/** The bits of some fields. */
export function fieldBits(keys: FieldKey[]): number {
  return keys.reduce((bits, key) => bits | (FIELD_BIT.get(key) as number), 0);
}

/** The fields in a number of bits. */
export function fieldsInBits(bits: number): FieldKey[] {
  return FIELD_KEYS.filter((key) => bits & (FIELD_BIT.get(key) as number));
}

/** What bits say, in words. */
export function changeWords(bits: number): string[] {
  return [
    ...(bits & SOLD_OUT ? ["sold out"] : []),
    ...(bits & BACK_IN_STOCK ? ["back in stock"] : []),
    ...fieldsInBits(bits).map((key) => FIELD[key].label.toLowerCase()),
    ...(bits & OTHER_COLUMNS ? ["other columns"] : []),
  ];
}

/** Whether an item of this availability can be bought now, as far as is known: of a word that nobody understands it is not. */
export function isBuyable(availability: string): boolean {
  return availability !== "out of stock" && availability !== NOT_KNOWN;
}
