import { plural } from "../kit/format";
import { plainText, readDigits, type DecimalMark } from "../kit/digits";
import { moneyForm, wordsInTheWay, type MoneyFault } from "../kit/money";

/** How most feeds write amounts; looked at without the general way's many steps. */
const USUAL = /^\d+\.\d{1,2}(?: [A-Z]{3})?$/;

/** What a value tells of the decimal mark: one of the two, nothing, or that it can be read both ways, as `1.299` can. */
export function decimalEvidence(value: string): "," | "." | "open" | null {
  if (USUAL.test(value)) return ".";
  const digits = /\d[\d.,' ]*|[.,]\d+/.exec(plainText(value))?.[0].trim().replace(/[.,]$/, "") ?? "";
  const read = readDigits(digits);
  if (read.kind === "open") return "open";
  return read.kind === "sure" ? read.mark : null;
}

/**
 * The decimal mark that amounts use, or "auto" when single values tell. "1.234" and "1,234" say nothing by themselves; a
 * value such as "12,5" or "1.234,50" beside them does.
 */
export function detectDecimal(values: string[]): DecimalMark {
  const judge = new PriceJudge();
  for (const value of values) judge.see(value);
  return judge.mark();
}

/** A way of writing amounts that could not be read, and how often it was met. */
export interface UnreadForm {
  form: string;
  example: string;
  count: number;
  /** Words without which it would be read; none where that would not help. */
  words: string[];
  /** The mark that parts either thousands or cents, where that is all that is not known. */
  open: "." | "," | null;
}

const MOST_FORMS = 50;

/** Looks at all amounts of a feed: which decimal mark they use, and which of them can't be read. */
export class PriceJudge {
  private readonly seen = { ",": 0, ".": 0, open: 0 };
  private example = "";
  private readonly forms = new Map<string, UnreadForm>();

  see(value: string): void {
    const evidence = decimalEvidence(value);
    if (evidence === null) return;
    this.seen[evidence]++;
    if (evidence !== "open") return;
    if (this.example === "") this.example = value.trim();
  }

  /** Notes an amount that could not be read. */
  failed(value: string, fault: MoneyFault, mark: DecimalMark): void {
    if (fault === "empty") return;
    const form = moneyForm(value);
    const found = this.forms.get(form);
    if (found) found.count++;
    else if (this.forms.size < MOST_FORMS) {
      const example = value.trim().slice(0, 60);
      const open = fault === "open" ? (value.includes(",") ? "," : ".") : null;
      this.forms.set(form, { form, example, count: 1, words: wordsInTheWay(value, mark), open });
    }
  }

  /** The mark that all amounts together tell: a feed of one mind whose values would be open one by one. */
  mark(): DecimalMark {
    const { ",": comma, ".": point, open } = this.seen;
    if (open === 0 || (comma > 0 && point > 0)) return "auto";
    return comma > 0 ? "," : point > 0 ? "." : "auto";
  }

  /** Whether amounts were left unread that all together tell how to read. */
  isMisread(): boolean {
    return this.seen.open > 0 && this.mark() !== "auto";
  }

  /** The forms that could not be read, the commonest first. */
  unread(): UnreadForm[] {
    return [...this.forms.values()].sort((a, b) => b.count - a.count);
  }

  /** What people should know: amounts that can be read two ways where nothing tells. */
  notices(): string[] {
    const { open } = this.seen;
    if (open === 0 || this.mark() !== "auto") return [];
    return [
      `${plural(open, "price")} such as ${this.example} can be read two ways, and the feed does not tell which. Choose the decimal mark; until then they are set aside.`,
    ];
  }
}
