import { randomUUID } from "node:crypto";
import { mkdirSync, writeFileSync } from "node:fs";
import path from "node:path";
import { parquetWriteBuffer } from "hyparquet-writer";
import { describe, expect, it } from "vitest";
import { FailureError, type Failure } from "@/core/kit/outcome";
import { dataDir } from "../../settings";
import { NO_CHOICE, openFeed } from "./open-feed";

const folder = path.join(dataDir(), "beyond");
mkdirSync(folder, { recursive: true });

/** Reads a file to its end. @returns how many rows there are, or why it is refused */
async function readAll(content: string | Uint8Array): Promise<number | Failure> {
  const file = path.join(folder, randomUUID());
  writeFileSync(file, content);
  try {
    const feed = await openFeed(file, NO_CHOICE);
    let count = 0;
    for await (const { rows } of feed.batches()) count += rows.length;
    return count;
  } catch (error) {
    if (error instanceof FailureError) return error.failure;
    throw error;
  }
}

/** Honest records first, so that a first look sees nothing of what comes. */
const HONEST = 3000;
const honest = Array.from({ length: HONEST }, (_, i) => ({ id: `A${i}`, title: `Rake ${i}` }));
const jsonWith = (last: string) => `[${honest.map((one) => JSON.stringify(one)).join(",")},${last}]`;
const itemOf = (inner: string) => `<item>${inner}</item>`;
const xmlWith = (last: string) =>
  `<rss><channel>${honest.map(({ id, title }) => itemOf(`<id>${id}</id><title>${title}</title>`)).join("")}${last}</channel></rss>`;
const many = (count: number, part: (i: number) => string) => Array.from({ length: count }, (_, i) => part(i)).join("");

describe("what stands far inside a file", () => {
  it("is read where it is large but honest", async () => {
    expect(await readAll(jsonWith(`{"id":"B","pictures":[${many(20_000, () => `"x",`)}"y"]}`))).toBe(HONEST + 1);
    expect(await readAll(xmlWith(itemOf(`<id>B</id>${many(20_000, () => "<picture>x</picture>")}`)))).toBe(HONEST + 1);
    expect(await readAll(xmlWith(itemOf(`<id>B</id><title>${"long ".repeat(100_000)}</title>`)))).toBe(HONEST + 1);
  });

  it.each([
    [
      "a JSON record of 150,000 values",
      () => jsonWith(`{"id":"B","n":[${many(150_000, () => "1,")}1]}`),
      "feed-record-large",
      `Record ${HONEST + 1} `,
    ],
    ["a JSON text of 20 MB", () => jsonWith(`{"id":"${"x".repeat(20_000_000)}"}`), "feed-json-endless", "without end"],
    [
      "an XML item of 150,000 elements",
      () => xmlWith(itemOf(many(150_000, () => "<p>1</p>"))),
      "feed-record-large",
      `Item ${HONEST + 1} `,
    ],
    [
      "an XML attribute of 20 MB",
      () => xmlWith(`<item a="${"x".repeat(20_000_000)}"/>`),
      "feed-xml-endless",
      "without end",
    ],
    ["an XML comment of 20 MB", () => xmlWith(`<!--${"x".repeat(20_000_000)}-->`), "feed-xml-endless", "without end"],
    [
      "a Parquet page that unpacks to 270 MB",
      () => {
        const data = ["small", "x".repeat(270_000_000)];
        return new Uint8Array(parquetWriteBuffer({ columnData: [{ name: "id", data, type: "STRING" }] }));
      },
      "feed-parquet-beyond",
      "hundreds of megabytes",
    ],
  ])("%s is refused with what and where", async (_, make, code, says) => {
    const failure = (await readAll(make())) as Failure;
    expect([failure.code, failure.message]).toEqual([code, expect.stringContaining(says)]);
    expect(`${failure.message} ${failure.hint}`).toContain("Nothing was taken in");
  });
});
