import { createReadStream } from "node:fs";
import { Readable } from "node:stream";
import type { ReadableStream } from "node:stream/web";
import { gzipSync } from "node:zlib";
import { describe, expect, it } from "vitest";
import { FailureError } from "@/core/kit/outcome";
import { feedFile, importFeed, testWorkspace } from "../testing";
import { diagnose } from "../across/catalogue/diagnose";
import { inspectUpload, listFeeds, rowsSetAside, startImport } from "./feeds";
import { storeUpload } from "./uploads";

const stream = (content: string | Uint8Array) =>
  Readable.toWeb(createReadStream(feedFile(content))) as ReadableStream<Uint8Array>;

describe("an upload", () => {
  it("is looked at: form, columns with samples, and a proposed mapping", async () => {
    const { db, info } = await testWorkspace();
    const rows = Array.from({ length: 300 }, (_, i) => `${i};Hose ${i % 40};${i},50 EUR;${i % 3 ? "red" : ""}`).join(
      "\n",
    );
    const upload = await storeUpload(info.slug, stream(gzipSync(`sku;name;price;colour\n${rows}\n`)));
    const found = await inspectUpload(db, info.slug, upload, null);
    expect(found).toMatchObject({
      format: "delimited",
      delimiter: ";",
      encoding: "utf-8",
      compressed: true,
      sampled: 200,
      saved: false,
    });
    expect(found.columns.map(({ name, distinct }) => [name, distinct])).toEqual([
      ["sku", 200],
      ["name", 40],
      ["price", 200],
      ["colour", 1],
    ]);
    expect(found.columns[3]).toMatchObject({ filled: 133, samples: ["red"] });
    const chosen = Object.fromEntries(Object.entries(found.mapping.columns).filter(([, source]) => source));
    expect(chosen).toEqual({ id: "sku", title: "name", price: "price", color: "colour" });
  });

  it("keeps the saved columns of a known feed, and proposes anew where they are gone", async () => {
    const workspace = await testWorkspace();
    const { db, info } = workspace;
    const mapping = { columns: { id: "code", title: "text", price: "amount", brand: null } };
    await importFeed(workspace, "code,text,amount,brand\n1,Hose,5,Thornlea\n", { mapping });
    const upload = await storeUpload(info.slug, stream("code,title,amount,brand\n1,Hose,5,Thornlea\n"));
    const { mapping: kept, saved } = await inspectUpload(db, info.slug, upload, null);
    const column = (field: "id" | "price" | "title" | "brand") => kept.columns[field];
    expect(saved).toBe(true);
    expect([column("id"), column("price"), column("title"), column("brand")]).toEqual([
      "code",
      "amount",
      "title",
      null,
    ]);
  });

  it("is refused when it is empty or can't be found", async () => {
    const { db, info } = await testWorkspace();
    await expect(storeUpload(info.slug, null)).rejects.toBeInstanceOf(FailureError);
    const empty = await storeUpload(info.slug, stream(""));
    await expect(inspectUpload(db, info.slug, empty, null)).rejects.toMatchObject({
      failure: { code: "feed-empty" },
    });
    const gone = { upload: "00000000-0000-4000-8000-000000000000", fileName: "x", mapping: null, acceptLoss: false };
    await expect(startImport(db, info.slug, "main", gone)).rejects.toMatchObject({ failure: { code: "upload-gone" } });
  });
});

describe("what is known of a feed", () => {
  it("tells file, counts and faults, agreeing with the rows", async () => {
    const workspace = await testWorkspace();
    const { db } = workspace;
    expect(await listFeeds(db)).toEqual([]);
    expect(await diagnose(db)).toEqual([]);
    await importFeed(
      workspace,
      "id,title,price,availability,category\n1,Garden hose,5,in stock,X\n2,B,,in stock,X\n3,Copper can,4,who knows,\n4,D,oops,in stock,X\n5,Leaf rakes,4,in stock,\n6,Bean seeds,4,in stock,X\n",
    );
    const [feed] = await listFeeds(db);
    expect(feed).toMatchObject({ key: "main", fileName: "feed.csv", counts: { rows: 6, stored: 4, setAside: 2 } });
    expect((await diagnose(db)).map(({ code, count, isAside }) => [code, count, isAside])).toEqual([
      ["price-missing", 1, true],
      ["price-unreadable", 1, true],
      ["category-missing", 2, false],
      ["availability-unknown", 1, false],
    ]);
    expect(await rowsSetAside(db, 1, 1)).toMatchObject({
      total: 2,
      rows: [{ row: 5, cells: ["4", "D", "oops", "in stock", "X"] }],
    });
    // The next reading's faults take the place of these.
    await importFeed(
      workspace,
      "id,title,price,availability,category\n1,Garden hose,5,in stock,X\n3,Copper can,4,in stock,X\n5,Leaf rakes,4,in stock,X\n",
    );
    expect(await diagnose(db)).toEqual([]);
    expect((await rowsSetAside(db, 0, 10)).rows).toEqual([]);
  });
});
