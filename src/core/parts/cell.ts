import { isField, type FieldPart, type Part } from "./part";
import { stepSchema, type Step } from "./steps";

/*
 * Parts in one cell of a file: `[title; shorten 30] now [price]`. A field stands in brackets, what is done to it behind
 * semicolons: the step's name, then what it needs to know, texts in JSON's quotes. A backslash makes the sign behind it plain.
 */

const SIGNS = /[\\[\]]/g;

/** @param between what parts lines in the same cell, and so is escaped within one; "" where there is only one */
export function partsAsText(parts: readonly Part[], between = ""): string {
  const escaped = (text: string) =>
    text.replace(SIGNS, (sign) => `\\${sign}`).replaceAll(between || "\0", (sign) => `\\${sign}`);
  return parts.map((part) => (isField(part) ? `[${fieldAsText(part)}]` : escaped(part.text))).join("");
}

function fieldAsText({ field, steps = [] }: FieldPart): string {
  const name = field.replace(/[\\[\];]/g, (sign) => `\\${sign}`);
  return [name, ...steps.map(stepAsText)].join("; ");
}

/** A step's settings in the order in which its schema has them, without its name. */
function settingsOf(name: string): string[] {
  const option = stepSchema.options.find(({ shape }) => shape.do.value === name);
  return option ? Object.keys(option.shape).filter((key) => key !== "do") : [];
}

function stepAsText(step: Step): string {
  const values = step as Record<string, unknown>;
  const written = settingsOf(step.do).map((key) => JSON.stringify(values[key]).replace(PARTING, unicode));
  return [step.do, ...written].join(" ");
}

/** Signs that part things outside of quotes are written by their number within them. */
const PARTING = /[[\];|]/g;

function unicode(sign: string): string {
  return `\\u${sign.charCodeAt(0).toString(16).padStart(4, "0")}`;
}

/**
 * Reads a cell as {@link partsAsText} writes it.
 * @param between what parts lines; "" where the cell is one line
 * @returns the lines, or what is wrong with the cell
 */
export function partsFromText(cell: string, between = ""): Part[][] | string {
  const lines: Part[][] = [];
  let line: Part[] = [];
  let text = "";
  const endText = () => {
    if (text !== "") line.push({ kind: "text", text });
    text = "";
  };
  for (let at = 0; at < cell.length; at++) {
    const sign = cell[at]!;
    if (sign === "\\" && at + 1 < cell.length) text += cell[++at]!;
    else if (sign === "[") {
      const end = closing(cell, at + 1);
      if (end < 0) return "A bracket opens that never closes; write \\[ for a plain one.";
      const part = fieldFromText(cell.slice(at + 1, end));
      if (typeof part === "string") return part;
      endText();
      line.push(part);
      at = end;
    } else if (sign === "]") return "A bracket closes that was never opened; write \\] for a plain one.";
    else if (sign === between) {
      endText();
      lines.push(line);
      line = [];
    } else text += sign;
  }
  endText();
  return [...lines, line];
}

/** Where the bracket closes, past escaped ones; −1 where it does not. */
function closing(cell: string, from: number): number {
  for (let at = from; at < cell.length; at++) {
    if (cell[at] === "\\") at++;
    else if (cell[at] === "]") return at;
  }
  return -1;
}

function fieldFromText(inside: string): FieldPart | string {
  const [named = "", ...told] = inside.match(/(?:\\[^]|[^;\\])+/g) ?? [];
  const field = named.trim().replace(/\\([^])/g, "$1");
  if (field === "" || inside.trimStart().startsWith(";")) return "There is a field without a name: “[]”.";
  const steps: Step[] = [];
  for (const one of told) {
    const step = stepFromText(one.trim());
    if (!step) return `“${one.trim()}” is not something that can be done to the field “${field}”.`;
    steps.push(step);
  }
  return { kind: "field", field, ...(steps.length > 0 && { steps }) };
}

function stepFromText(told: string): Step | null {
  const [name = "", ...values] = told.match(/"(?:[^"\\]|\\.)*"|\S+/g) ?? [];
  const keys = settingsOf(name);
  if (values.length > keys.length) return null;
  try {
    const settings = values.map((value, i) => [keys[i], JSON.parse(value) as unknown]);
    const read = stepSchema.safeParse({ ...Object.fromEntries(settings), do: name });
    return read.success ? read.data : null;
  } catch {
    return null;
  }
}
