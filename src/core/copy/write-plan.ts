import { hashText } from "../kit/random";
import type { CopyPlan, LineList } from "./copy-plan";
import { FaultFinder, namesOtherPrice, PLENTY_LEFT, type Cause } from "./faults";
import { isWritten, OUTCOMES, type WrittenLine } from "./line";
import { firstSellable, rowsOf, type Units } from "./units";
import type { CopyValues } from "./values";
import { compileDesign, lacking, writeAd, type WrittenAd } from "./write-ad";

/** How an ad of an ad group stands. */
export const AD_STATES = ["none", "whole", "shorter", "held"] as const;
/** `shorter`: whole without some lines that are held back; `held`: too little is left without them. */
export type AdState = (typeof AD_STATES)[number];

/** Why an ad group has no ad at a place. */
export type WhyNone = "sold out" | "no ad is for it" | "too few lines";

/** A text that is held back, with the cause. */
export interface HeldLine {
  cause: Cause;
  list: LineList;
  text: string;
}

/** What a plan says for one ad group at one place. */
export interface UnitAd {
  unit: number;
  place: number;
  /** Number of the design in the plan, −1 for none. */
  design: number;
  state: AdState;
  why: WhyNone | null;
  /** Lists of which there are too few lines, where that is why. */
  lacks: LineList[];
  /** The lines that go out. */
  lines: WrittenLine[];
  held: HeldLine[];
  written: WrittenAd | null;
}

/** How one line of a design stands over the ad groups it was written for. */
export interface LineFigures {
  design: number;
  at: number;
  tried: number;
  /** By rung: ad groups it fits. */
  rungs: number[];
  ranOn: number;
  cut: number;
  gap: number;
  long: number;
  awkward: number;
  /** Characters by which the longest is too long. */
  over: number;
  /** Fields that had nothing to say, with for how many ad groups. */
  gaps: Map<string, number>;
}

const NO_LISTS: LineList[] = [];

/** Approved texts by cause: `cause` and text with a line break between. */
export type Approved = ReadonlySet<string>;
export const approval = (cause: Cause, text: string) => `${cause}\n${text}`;

/** Writes a copy plan for ad groups one by one; the same work answers a single look and the whole plan. */
export class CopyWriter {
  readonly places: number[];
  private readonly designs: { place: number; write: (unit: number) => WrittenAd }[];
  private readonly finder: FaultFinder;
  private readonly price: Float64Array;
  private readonly sale: Float64Array;
  /** Marks of ads that stand on too many ad groups; known once the whole plan was written. */
  tooSame: ReadonlySet<number> = new Set();

  /**
   * @param meets by design: marks of the rows that meet its condition, null where all do
   * @param approved texts that somebody let pass
   * @param badPages rows whose landing page is not theirs, with what is wrong in a sentence; an ad for one item waits for it
   */
  constructor(
    private readonly plan: CopyPlan,
    readonly units: Units,
    private readonly values: CopyValues,
    private readonly meets: readonly (Uint8Array | null)[],
    private readonly approved: Approved,
    private readonly badPages: ReadonlyMap<number, string> = new Map(),
  ) {
    this.finder = new FaultFinder(plan);
    this.price = values.column("price");
    this.sale = values.column("salePrice");
    this.places = [...new Set(plan.ads.map(({ place }) => place))].sort((a, b) => a - b);
    this.designs = plan.ads.map((design) => {
      const compiled = compileDesign(design, values);
      return { place: design.place, write: (unit) => writeAd(compiled, unit) };
    });
  }

  /** Whether all items of an ad group that can be bought meet a design's condition. */
  private isFor(design: number, unit: number): boolean {
    const marks = this.meets[design];
    if (!marks) return true;
    const { start, rows, sellable } = this.units;
    for (let i = start[unit]!; i < start[unit + 1]!; i++) {
      const row = rows[i]!;
      if (marks[row] !== 1 && sellable[row]) return false;
    }
    return true;
  }

  /** The ad of an ad group at a place: of the designs of that place the first that its items meet and that comes out whole. */
  adOf(unit: number, place: number, onTried?: (design: number, written: WrittenAd) => void): UnitAd {
    const none = { unit, place, design: -1, state: "none" as const, lacks: [], lines: [], held: [], written: null };
    if (firstSellable(this.units, unit) < 0) return { ...none, why: "sold out" };
    let nearest: UnitAd = { ...none, why: "no ad is for it" };
    for (let at = 0; at < this.designs.length; at++) {
      const design = this.designs[at]!;
      if (design.place !== place || !this.isFor(at, unit)) continue;
      const written = design.write(unit);
      onTried?.(at, written);
      const lacks = lacking(written.lines);
      if (lacks.length > 0) {
        if (nearest.design < 0) nearest = { ...none, design: at, why: "too few lines", lacks, written };
        continue;
      }
      return this.proved(unit, place, at, written);
    }
    return nearest;
  }

  /** What of a whole ad can go out. */
  private proved(unit: number, place: number, design: number, written: WrittenAd): UnitAd {
    const held: HeldLine[] = [];
    const letPass: WrittenLine[] = [];
    for (const line of written.lines) {
      const cause = this.causeOf(line, unit);
      if (cause === null) letPass.push(line);
      else held.push({ cause, list: line.list, text: line.text });
    }
    const lines = held.length === 0 ? written.lines : letPass;
    const made = (state: AdState, lines: WrittenLine[], held: HeldLine[]): UnitAd => {
      return { unit, place, design, state, why: null, lacks: NO_LISTS, lines, held, written };
    };
    const page = this.badPages.size > 0 ? this.pageFault(unit) : null;
    if (page !== null) return made("held", [], [...held, { cause: "page", list: "headlines", text: page }]);
    if (this.tooSame.size > 0 && this.tooSame.has(markOf(lines))) {
      const text = shownOf(lines);
      if (!this.isLetPass("same", text)) return made("held", [], [...held, { cause: "same", list: "headlines", text }]);
    }
    if (held.length === 0) return made("whole", lines, held);
    return lacking(lines).length > 0 ? made("held", [], held) : made("shorter", lines, held);
  }

  /** What is wrong with the page that an ad for one item leads to; an ad for several shows others of them. */
  private pageFault(unit: number): string | null {
    const { start, rows } = this.units;
    if (start[unit + 1]! - start[unit]! !== 1) return null;
    const text = this.badPages.get(rows[start[unit]!]!);
    return text === undefined || this.isLetPass("page", text) ? null : text;
  }

  /** What a line is held back for, or null where nothing is wrong or somebody let it pass. */
  private causeOf(line: WrittenLine, unit: number): Cause | null {
    const { text, claims } = line;
    const { causes, amounts } = (line.proof ??= this.finder.inText(text));
    for (const cause of causes) if (!this.isLetPass(cause, text)) return cause;
    if (amounts.length > 0 && namesOtherPrice(amounts, this.amounts(unit)) && !this.isLetPass("other-price", text))
      return "other-price";
    const saysStock = claims.length > 0 && claims.some((field) => field === "stock" || field === "copy:stock");
    return saysStock && this.isPlenty(unit) && !this.isLetPass("plenty", text) ? "plenty" : null;
  }

  private isLetPass(cause: Cause, text: string): boolean {
    return this.approved.has(approval(cause, text));
  }

  private isPlenty(unit: number): boolean {
    return this.values.number("copy:stock")[unit]! > PLENTY_LEFT;
  }

  /** Amounts of money that can truly be said of an ad group, in mills. */
  private amounts(unit: number): number[] {
    const amounts: number[] = [];
    for (const row of rowsOf(this.units, unit)) {
      const [price, sale] = [this.price[row]!, this.sale[row]!];
      amounts.push(price, sale, price - sale);
    }
    return amounts;
  }
}

/** An ad's lines as one text, by which it is let pass as a whole. */
function shownOf(lines: readonly WrittenLine[]): string {
  return lines.map(({ text }) => text).join(" | ");
}

/** A number that tells ads with the same lines from others. */
function markOf(lines: readonly WrittenLine[]): number {
  const text = shownOf(lines);
  return hashText(text) * 2 ** 20 + (hashText(text, 1) >>> 12);
}

/** A text held back, with the ad groups it is held back in. */
export interface HeldText {
  cause: Cause;
  list: LineList;
  text: string;
  units: number[];
}

/** A copy plan written for all its ad groups, as figures; the texts are written again for whoever looks at some of them. */
export interface WrittenPlan {
  units: Units;
  places: number[];
  /** By ad group and place: number of the design or −1, and state (place in `AD_STATES`). */
  design: Int8Array;
  state: Uint8Array;
  why: (WhyNone | null)[];
  /** By ad group and line of all designs: what became of it; see `OUTCOMES`. */
  outcomes: Uint8Array;
  /** Where each design's lines begin among all. */
  lineStart: number[];
  lines: LineFigures[];
  held: HeldText[];
  /** Characters that all lines of an ad group's ads come to, and lines that left a gap. */
  said: Uint32Array;
  gaps: Uint16Array;
  /** By ad group and place: lines that can go out. */
  sent: Uint8Array;
}

/** Writes the plan for every ad group. Time grows with ad groups × lines; see the bench for how fast. */
export function writePlan(plan: CopyPlan, writer: CopyWriter): WrittenPlan {
  const { units, places } = writer;
  const lineStart: number[] = [];
  const lines: LineFigures[] = [];
  plan.ads.forEach((ad, design) => {
    lineStart.push(lines.length);
    ad.lines.forEach(({ rungs }, at) => {
      const none = { tried: 0, ranOn: 0, cut: 0, gap: 0, long: 0, awkward: 0, over: 0 };
      lines.push({ design, at, ...none, rungs: rungs.map(() => 0), gaps: new Map() });
    });
  });
  const width = lines.length;
  const made: WrittenPlan = {
    ...{ units, places, lineStart, lines },
    design: new Int8Array(units.count * places.length).fill(-1),
    state: new Uint8Array(units.count * places.length),
    why: new Array<WhyNone | null>(units.count * places.length).fill(null),
    outcomes: new Uint8Array(units.count * width).fill(OUTCOMES.untried),
    held: [],
    said: new Uint32Array(units.count),
    gaps: new Uint16Array(units.count),
    sent: new Uint8Array(units.count * places.length),
  };
  const held = new Map<string, HeldText>();
  const hold = ({ cause, list, text }: HeldLine, unit: number) => {
    const id = `${cause}\n${list}\n${text}`;
    const found = held.get(id);
    if (!found) held.set(id, { cause, list, text, units: [unit] });
    else if (found.units.at(-1) !== unit) found.units.push(unit);
  };
  const marks = plan.sameOnMost === null ? null : new Float64Array(units.count * places.length).fill(-1);
  for (let unit = 0; unit < units.count; unit++) {
    const onTried = (design: number, { outcomes }: WrittenAd) => {
      for (let at = 0; at < outcomes.length; at++) {
        const outcome = outcomes[at]!;
        const figures = lines[lineStart[design]! + at]!;
        made.outcomes[unit * width + lineStart[design]! + at] = outcome.outcome;
        count(figures, outcome.outcome, outcome.over, outcome.gap);
        if (!isWritten(outcome.outcome)) made.gaps[unit]!++;
      }
    };
    places.forEach((place, p) => {
      const ad = writer.adOf(unit, place, onTried);
      const slot = unit * places.length + p;
      made.design[slot] = ad.design;
      made.state[slot] = AD_STATES.indexOf(ad.state);
      made.why[slot] = ad.why;
      made.sent[slot] = ad.lines.length;
      for (const { text } of ad.lines) made.said[unit]! += text.length;
      for (const line of ad.held) hold(line, unit);
      if (marks && ad.lines.length > 0) marks[slot] = markOf(ad.lines);
    });
  }
  if (marks) holdAlike(plan, writer, made, marks, hold);
  made.held = [...held.values()].sort((a, b) => b.units.length - a.units.length || (a.text < b.text ? -1 : 1));
  return made;
}

/** Holds back the ads that stand on more ad groups than the plan allows. */
function holdAlike(
  { sameOnMost }: CopyPlan,
  writer: CopyWriter,
  made: WrittenPlan,
  marks: Float64Array,
  hold: (line: HeldLine, unit: number) => void,
): void {
  const counts = new Map<number, number>();
  for (const mark of marks) if (mark >= 0) counts.set(mark, (counts.get(mark) ?? 0) + 1);
  const tooSame = new Set<number>();
  for (const [mark, count] of counts) if (count > sameOnMost!) tooSame.add(mark);
  if (tooSame.size === 0) return;
  writer.tooSame = tooSame;
  const { places } = made;
  for (let slot = 0; slot < marks.length; slot++) {
    if (!tooSame.has(marks[slot]!)) continue;
    const unit = Math.floor(slot / places.length);
    const ad = writer.adOf(unit, places[slot % places.length]!);
    if (ad.state !== "held") continue;
    for (const line of ad.held) if (line.cause === "same") hold(line, unit);
    made.sent[slot] = 0;
    made.state[slot] = AD_STATES.indexOf("held");
  }
}

function count(figures: LineFigures, outcome: number, over: number, gap: string | null): void {
  figures.tried++;
  if (outcome < figures.rungs.length) figures.rungs[outcome]!++;
  else if (outcome === OUTCOMES.ranOn) figures.ranOn++;
  else if (outcome === OUTCOMES.cut) figures.cut++;
  else if (outcome === OUTCOMES.gap) {
    figures.gap++;
    if (gap !== null) figures.gaps.set(gap, (figures.gaps.get(gap) ?? 0) + 1);
  } else if (outcome === OUTCOMES.long) {
    figures.long++;
    figures.over = Math.max(figures.over, over);
  } else if (outcome === OUTCOMES.awkward) figures.awkward++;
}
