import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { Answer, Change, Channel } from "@/core/dispatch/contract";
import { FilesChannel } from "./files-channel";
import { HttpChannel } from "./http-channel";
import { hostChannel } from "./host";
import { conform } from "./conform";
import { closeAll, listen } from "./http-testing";
import { MemoryChannel } from "./memory-channel";
import { MarketChannel } from "../market/market-channel";
import { forgetSettings } from "../settings";
import { importFeed, testWorkspace } from "../testing";

/** The contract against the channels that ship, and against ones that break it one way each. */

const TOKEN = "t0ken";
beforeAll(() => {
  process.env["HOTSHELF_PRIVATE_ADDRESSES"] = "true";
  forgetSettings();
});
afterAll(() => {
  closeAll();
  delete process.env["HOTSHELF_PRIVATE_ADDRESSES"];
  forgetSettings();
});

const faultsOf = async (channel: Channel) =>
  (await conform(channel, "t")).flatMap(({ check, fault }) => (fault === null ? [] : [`${check}: ${fault}`]));

const FEED = "id,title,price,category\nI1,Oak Rake,20,Garden > Rakes\nI2,Hose,30,Garden > Hoses\n";

describe("a channel that ships", () => {
  it("keeps the contract: the test market", async () => {
    const { db, info } = await testWorkspace();
    await importFeed({ db, info }, FEED);
    const channel = new MarketChannel(db, info);
    expect(await faultsOf(channel)).toEqual([]);
    expect((await channel.places(null)).places.length).toBeGreaterThan(20);
    expect((await db.$client.execute("SELECT count(*) FROM channel_books")).rows[0]![0]).toBe(0);
  });

  it("keeps the contract: files", async () => {
    const { db } = await testWorkspace();
    expect(await faultsOf(new FilesChannel(db, {}))).toEqual([]);
  });

  it("keeps the contract over HTTP, whichever it is", async () => {
    const { db, info } = await testWorkspace();
    await importFeed({ db, info }, FEED);
    for (const channel of [new MemoryChannel(), new MarketChannel(db, info), new FilesChannel(db, {})]) {
      const address = await listen(hostChannel(channel, TOKEN));
      expect(await faultsOf(new HttpChannel(address, TOKEN))).toEqual([]);
    }
  });

  it("answers nobody without the token", async () => {
    const address = await listen(hostChannel(new MemoryChannel(), TOKEN));
    await expect(new HttpChannel(address, "another").about()).rejects.toMatchObject({
      failure: { code: "channel-token" },
    });
  });
});

/** The stand-in with one thing wrong. */
function wrong(change: (right: MemoryChannel) => Partial<Channel>): Channel {
  const right = new MemoryChannel();
  const bound = Object.fromEntries(
    (["about", "take", "answersTo", "look", "records", "places", "report"] as const).map((name) => [
      name,
      (right[name] as (...args: unknown[]) => unknown).bind(right),
    ]),
  ) as unknown as Channel;
  return { ...bound, ...change(right) };
}

describe("a channel that breaks the contract is found", () => {
  const answersOf =
    (right: MemoryChannel, make: (answer: Answer, change: Change) => Answer) =>
    async (key: string, changes: Change[]) =>
      (await right.take(key, changes)).map((answer, i) => make(answer, changes[i]!));
  it.each<[string, (right: MemoryChannel) => Partial<Channel>, RegExp]>([
    [
      "says taken of what it refused",
      (right) => ({ take: answersOf(right, ({ key }) => ({ key, state: "taken" })) }),
      /from something that does not stand there/,
    ],
    [
      "refuses what stands already",
      (right) => ({
        take: answersOf(right, (answer, { before, after }) =>
          before === null && answer.state === "taken" && after
            ? { key: answer.key, state: "refused", stands: after, reason: "It is there." }
            : answer,
        ),
      }),
      /refused/,
    ],
    [
      "leaves answers out",
      (right) => ({ take: async (key, changes) => (await right.take(key, changes)).slice(1) }),
      /did not answer/,
    ],
    [
      "lists records twice",
      (right) => ({
        records: async () => {
          const { records } = await right.records(null);
          return { records: [...records, ...records], next: null };
        },
      }),
      /twice/,
    ],
    ["never comes to the end", () => ({ records: async () => ({ records: [], next: "0" }) }), /same one/],
    [
      "makes orphans",
      () => {
        const books = new Map<string, Change["after"]>();
        return {
          take: async (_key, changes) =>
            changes.map(({ key, after }): Answer => {
              books.set(key, after);
              return { key, state: "taken" };
            }),
          look: async (keys) => new Map(keys.map((key) => [key, books.get(key) ?? null])),
        };
      },
      /campaign that is not there/,
    ],
    ["has answers to what never came", () => ({ answersTo: async () => [] }), /never came/],
    [
      "speaks another version",
      (right) => ({ about: async () => ({ ...(await right.about()), contract: 2 as 1 }) }),
      /contract|expected 1/i,
    ],
  ])("%s", async (_, change, fault) => {
    expect((await faultsOf(wrong(change))).join("\n")).toMatch(fault);
  });
});
