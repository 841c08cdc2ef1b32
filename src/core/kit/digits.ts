/** The decimal mark of amounts, or "auto" to tell it from each amount. */
export type DecimalMark = "auto" | "." | ",";

/**
 * Firsts of the runs of ten digits in scripts that shops write amounts in (Unicode, general category Nd); full-width ones
 * are brought to plain ones by NFKC before.
 */
const ZEROS = [
  0x660, 0x6f0, 0x966, 0x9e6, 0xa66, 0xae6, 0xb66, 0xbe6, 0xc66, 0xce6, 0xd66, 0xe50, 0xed0, 0x1040, 0x17e0,
];
const OTHER_DIGIT = /\p{Nd}/gu;
/** Arabic marks that group and part, and nothing else (U+066C, U+066B). */
const ARABIC_GROUP = /\u066c/g;
export const SURE_POINT = "\u066b";

/**
 * A text with plain digits, blanks and dashes in place of those that look so, and without marks that are not seen. What it
 * says stays the same.
 */
export function plainText(text: string): string {
  if (/^[\x20-\x7e]*$/.test(text)) return text.trim();
  return text
    .replace(/[’ʼ‘´`]/g, "'")
    .normalize("NFKC")
    .replace(/\p{Cf}/gu, "")
    .replace(OTHER_DIGIT, plainDigit)
    .replace(ARABIC_GROUP, "'")
    .replace(/[−‐‑‒–—―]/g, "-")
    .replace(/\s/g, " ")
    .trim();
}

function plainDigit(digit: string): string {
  const at = digit.codePointAt(0)!;
  const zero = ZEROS.find((first) => at >= first && at < first + 10);
  return zero === undefined ? digit : String(at - zero);
}

/** What groups digits and never parts cents. */
const GROUPING = /[ ']/;

/** How digits can be read: as one number, as one of two by which mark is decimal, or as none. */
export type Digits =
  { kind: "sure"; value: number; mark: "." | "," | null } | { kind: "open"; at: number } | { kind: "none" };

const NONE: Digits = { kind: "none" };

/**
 * Reads digits with what groups and parts them. Only one form is open: a single point or comma with three digits behind it
 * and one to three before, the first of them no nought, as in `1.299`.
 */
export function readDigits(text: string): Digits {
  let points = 0;
  let commas = 0;
  for (let at = 0; at < text.length; at++) {
    if (text[at] === ".") points++;
    else if (text[at] === ",") commas++;
  }
  if (text.includes(SURE_POINT)) return points + commas > 0 ? NONE : parted(text, text.indexOf(SURE_POINT), null);
  if (points > 0 && commas > 0) {
    const at = Math.max(text.lastIndexOf("."), text.lastIndexOf(","));
    const mark = text[at] as "." | ",";
    return (mark === "." ? points : commas) > 1 ? NONE : parted(text, at, mark);
  }
  const mark = points > 0 ? "." : ",";
  if (points + commas === 0) return parted(text, -1, null);
  // What repeats groups, so cents would stand behind the other mark.
  if (points + commas > 1) return parted(text, -1, mark === "." ? "," : ".");
  const at = text.indexOf(mark);
  return /^[1-9]\d{0,2}[.,]\d{3}$/.test(text) ? { kind: "open", at } : parted(text, at, mark);
}

/** A number whose decimal mark stands at a place, or nowhere (-1). */
function parted(text: string, at: number, mark: "." | "," | null): Digits {
  const whole = at < 0 ? text : text.slice(0, at);
  const fraction = at < 0 ? "" : text.slice(at + 1);
  if (!/^\d*$/.test(fraction) || (whole === "" && fraction === "") || !isGrouped(whole)) return NONE;
  return { kind: "sure", value: Number(`${whole.replace(/\D/g, "") || "0"}.${fraction || "0"}`), mark };
}

/** Whether whole units are grouped as numbers are: by threes, or as in India by twos and a last three; with one sign. */
function isGrouped(whole: string): boolean {
  if (/^\d*$/.test(whole)) return true;
  const sign = /\D/.exec(whole)![0];
  const groups = whole.split(sign);
  if (!groups.every((group) => /^\d+$/.test(group))) return false;
  const [first, ...rest] = groups as [string, ...string[]];
  if (rest.at(-1)!.length !== 3) return false;
  if (first.length <= 3 && rest.every((group) => group.length === 3)) return true;
  const inner = rest.slice(0, -1);
  return !GROUPING.test(sign) && first.length <= 2 && inner.length > 0 && inner.every((group) => group.length === 2);
}

/** Reads digits whose feed's decimal mark is known; null where they are none, or contradict it. */
export function readMarked(text: string, mark: "." | ","): number | null {
  const read = readDigits(text);
  if (read.kind === "none") return null;
  if (read.kind === "open") {
    const isDecimal = text[read.at] === mark;
    return Number(isDecimal ? text.replace(mark, ".") : text.replace(/[.,]/, ""));
  }
  return read.mark === null || read.mark === mark ? read.value : null;
}
