import type { AccountRecord } from "@/core/account/records";
import {
  aboutSchema,
  answerSchema,
  CONTRACT,
  placePageSchema,
  recordPageSchema,
  type Answer,
  type Change,
  type Channel,
} from "@/core/dispatch/contract";
import { sameValue } from "@/core/kit/diff";

/** What was looked at, and what was wrong with it; null where it is as the contract has it. */
export interface Checked {
  check: string;
  fault: string | null;
}

/** Faults that a check finds; thrown within this file only. */
class Fault extends Error {}

function must(holds: boolean, otherwise: string): asserts holds {
  if (!holds) throw new Fault(otherwise);
}

/** How long a channel may work on a message before it counts as gone, milliseconds. */
const PATIENCE_MS = 60_000;

/**
 * Tries a channel against the contract, check by check. It makes a few records of its own, named after the run, and takes them
 * away again at the end; nothing else is touched.
 * @param run tells runs apart, so that one that was broken off is not in the way of the next
 */
export async function conform(channel: Channel, run: string): Promise<Checked[]> {
  const trial = new Trial(channel, run);
  const done: Checked[] = [];
  for (const [check, look] of trial.checks()) {
    try {
      await look();
      done.push({ check, fault: null });
    } catch (error) {
      done.push({ check, fault: error instanceof Error ? error.message : String(error) });
    }
  }
  return done;
}

class Trial {
  private sent = 0;
  private readonly campaign: AccountRecord;
  private readonly adGroup: AccountRecord;

  constructor(
    private readonly channel: Channel,
    private readonly run: string,
  ) {
    this.campaign = {
      ...{ type: "campaign", key: `conform/${run}/c`, name: `Trial ${run}`, kind: "feed", purpose: "catch-all" },
      ...{ bidding: "fixed", goal: null, dailyBudget: 5_000, status: "paused", serveOrder: 9, inStockOnly: true },
      origin: null,
    };
    this.adGroup = {
      ...{ type: "adGroup", key: `conform/${run}/g`, campaign: this.campaign.key, name: "Trial" },
      ...{ status: "paused", bid: 300 },
    };
  }

  checks(): [check: string, look: () => Promise<void>][] {
    return [
      ["says who it is, and what it can carry", () => this.about()],
      ["takes what is new, and has it then", () => this.takesNew()],
      ["gives the same answers to the same message", () => this.sameMessage()],
      ["takes what stands already, under whatever key, and does nothing twice", () => this.standsAlready()],
      ["tells what became of a message, and knows nothing of one that never came", () => this.answers()],
      ["takes a change from what stands", () => this.changes()],
      ["leaves what stands otherwise than was thought, and says what does", () => this.leavesOthers()],
      ["leaves what would hang in the air", () => this.orphan()],
      ["takes one half of a message where it refuses the other", () => this.half()],
      ["lists every record once", () => this.records()],
      ["takes removals, below before above", () => this.removes()],
      ["lists places that the contract knows, each once", () => this.places()],
      ["gives the reports that it names", () => this.reports()],
    ];
  }

  private nextKey(): string {
    this.sent++;
    return `conform/${this.run}/${this.sent}`;
  }

  private async send(changes: Change[], key = this.nextKey()): Promise<Map<string, Answer>> {
    const began = Date.now();
    let answers = await this.channel.take(key, changes);
    while (answers === null) {
      must(Date.now() - began < PATIENCE_MS, "It still works on a message after a minute.");
      await new Promise((resolve) => setTimeout(resolve, 200));
      const later = await this.channel.answersTo(key);
      must(later !== undefined, "It took a message to work on and knows nothing of it.");
      answers = later;
    }
    const byKey = new Map(answers.map((answer) => [answer.key, answerSchema.parse(answer)]));
    for (const { key: record } of changes) must(byKey.has(record), `It did not answer for ${record}.`);
    return byKey;
  }

  private async stands(key: string): Promise<AccountRecord | null> {
    return (await this.channel.look([key])).get(key) ?? null;
  }

  /** A record stands as it was meant, or as the channel said that it made it. */
  private async isAsAnswered(answer: Answer | undefined, meant: AccountRecord | null): Promise<void> {
    must(
      answer !== undefined && answer.state !== "refused",
      `It refused: ${answer?.state === "refused" ? answer.reason : "no answer"}`,
    );
    const wanted = answer.state === "changed" ? answer.stands : meant;
    must(sameValue(await this.stands(answer.key), wanted), `What stands under ${answer.key} is not what it answered.`);
  }

  private async about(): Promise<void> {
    const about = aboutSchema.parse(await this.channel.about());
    must(about.contract === CONTRACT, `It speaks version ${about.contract} of the contract; this is ${CONTRACT}.`);
  }

  private readonly first = () => [
    { key: this.campaign.key, before: null, after: this.campaign },
    { key: this.adGroup.key, before: null, after: this.adGroup },
  ];

  private async takesNew(): Promise<void> {
    const answers = await this.send(this.first(), `conform/${this.run}/first`);
    await this.isAsAnswered(answers.get(this.campaign.key), this.campaign);
    await this.isAsAnswered(answers.get(this.adGroup.key), this.adGroup);
  }

  private async sameMessage(): Promise<void> {
    const again = await this.send(this.first(), `conform/${this.run}/first`);
    for (const { key } of this.first()) must(again.get(key)!.state !== "refused", `The second time it refused ${key}.`);
  }

  private async standsAlready(): Promise<void> {
    const again = await this.send([
      { key: this.campaign.key, before: null, after: await this.stands(this.campaign.key) },
    ]);
    must(again.get(this.campaign.key)!.state === "taken", "What stands as it is meant is to be answered as taken.");
  }

  private async answers(): Promise<void> {
    const known = await this.channel.answersTo(`conform/${this.run}/first`);
    must(known === undefined || known !== null, "It still works on a message that it has answered.");
    const unknown = await this.channel.answersTo(`conform/${this.run}/never`);
    must(unknown === undefined, "It has answers to a message that never came.");
  }

  private async changes(): Promise<void> {
    const before = await this.stands(this.campaign.key);
    const after = { ...before, dailyBudget: 7_000 } as AccountRecord;
    const answers = await this.send([{ key: this.campaign.key, before, after }]);
    await this.isAsAnswered(answers.get(this.campaign.key), after);
  }

  private async leavesOthers(): Promise<void> {
    const stands = (await this.stands(this.campaign.key)) as AccountRecord;
    const wrong = { ...stands, dailyBudget: 1_234_000 } as AccountRecord;
    const after = { ...stands, dailyBudget: 9_000 } as AccountRecord;
    const answer = (await this.send([{ key: this.campaign.key, before: wrong, after }])).get(this.campaign.key)!;
    must(answer.state === "refused", "It took a change from something that does not stand there.");
    must(sameValue(answer.stands, stands), "Its refusal does not say what stands.");
    must(sameValue(await this.stands(this.campaign.key), stands), "It refused and changed it all the same.");
  }

  private readonly loose = (): AccountRecord => ({
    ...(this.adGroup as Extract<AccountRecord, { type: "adGroup" }>),
    key: `conform/${this.run}/loose`,
    campaign: `conform/${this.run}/nowhere`,
  });

  private async orphan(): Promise<void> {
    const loose = this.loose();
    const answer = (await this.send([{ key: loose.key, before: null, after: loose }])).get(loose.key)!;
    must(answer.state === "refused", "It took an ad group of a campaign that is not there.");
    must((await this.stands(loose.key)) === null, "It refused and made it all the same.");
  }

  private async half(): Promise<void> {
    const loose = this.loose();
    const before = await this.stands(this.adGroup.key);
    const after = { ...before, bid: 350 } as AccountRecord;
    const answers = await this.send([
      { key: loose.key, before: null, after: loose },
      { key: this.adGroup.key, before, after },
    ]);
    must(answers.get(loose.key)!.state === "refused", "It took an ad group of a campaign that is not there.");
    await this.isAsAnswered(answers.get(this.adGroup.key), after);
  }

  private async records(): Promise<void> {
    const seen = new Set<string>();
    for (let after: string | null = null, pages = 0; pages < 100_000; pages++) {
      const page = recordPageSchema.parse(await this.channel.records(after));
      for (const { key } of page.records) {
        must(!seen.has(key), `It lists ${key} twice.`);
        seen.add(key);
      }
      if (page.next === null) break;
      must(page.next !== after, "The next page is the same one.");
      after = page.next;
    }
    must(seen.has(this.campaign.key) && seen.has(this.adGroup.key), "It does not list what it took.");
  }

  private async removes(): Promise<void> {
    const removals = [this.adGroup.key, this.campaign.key].map(async (key) => ({
      ...{ key, after: null },
      before: await this.stands(key),
    }));
    const answers = await this.send(await Promise.all(removals));
    for (const key of [this.adGroup.key, this.campaign.key]) await this.isAsAnswered(answers.get(key), null);
  }

  private async places(): Promise<void> {
    const { tellsPlaces } = await this.channel.about();
    const seen = new Set<string>();
    for (let after: string | null = null, pages = 0; pages < 100_000; pages++) {
      const page = placePageSchema.parse(await this.channel.places(after));
      for (const { kind, name, category } of page.places) {
        const place = `${kind} “${name}” in “${category}”`;
        must(!seen.has(place), `It lists ${place} twice.`);
        seen.add(place);
      }
      if (page.next === null) break;
      must(page.next !== after, "The next page is the same one.");
      after = page.next;
    }
    must(tellsPlaces || seen.size === 0, "It says that it tells of no places, and does.");
  }

  private async reports(): Promise<void> {
    const { reports } = await this.channel.about();
    for (const kind of reports) {
      let head = "";
      for await (const part of this.channel.report(kind, "2026-01-01", "2026-01-02")) {
        head += Buffer.from(part).toString("utf8");
        if (head.includes("\n")) break;
      }
      const columns = (head.split("\n")[0] ?? "").toLowerCase();
      must(/\bday\b/.test(columns), `Its report “${kind}” has no column “day” in its first line.`);
    }
  }
}
