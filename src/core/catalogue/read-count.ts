import { plainText } from "../kit/digits";

const PLAIN = /^\d{1,9}$/;
const COUNT = /^[<>~≥≤]?\s*(\d{1,3}(?:[.,'\s]\d{3})+|\d{1,9})(?:[.,]0+)?\s*\+?\s*\p{L}{0,12}\.?$/u;
/** More was sold than there was: nothing is on hand. */
const BELOW_NOTHING = /^-\s?\d{1,9}(?:[.,]0+)?$/;

/** A count as shops write it: "12", "12 pcs", "> 10", "10+", "1,200", with the digits of any script; below nought is nought; null when it is no count. */
export function readCount(text: string): number | null {
  if (PLAIN.test(text)) return Number(text);
  const plain = plainText(text);
  if (BELOW_NOTHING.test(plain)) return 0;
  const found = COUNT.exec(plain);
  return found ? Number(found[1]!.replace(/[.,'\s]/g, "")) : null;
}
