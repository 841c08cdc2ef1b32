const PLAIN = /^\d{1,9}$/;
const COUNT = /^[<>~≥≤]?\s*(\d{1,3}(?:[.,'\s]\d{3})+|\d{1,9})(?:[.,]0+)?\s*\+?\s*\p{L}{0,12}\.?$/u;

/** A count as shops write it: "12", "12 pcs", "> 10", "10+", "1,200"; null when it is no count. */
export function readCount(text: string): number | null {
  if (PLAIN.test(text)) return Number(text);
  const found = COUNT.exec(text.trim());
  return found ? Number(found[1]!.replace(/[.,'\s]/g, "")) : null;
}
