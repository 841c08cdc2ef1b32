import { beforeAll, describe, expect, it } from "vitest";
import sharp from "sharp";
import { CHANNEL_LIMITS } from "@/core/channel/limits";
import type { Database } from "@/db/client";
import { testWorkspace } from "../testing";
import { findPicture, keepPicture, listPictures } from "./pictures";

let db: Database;
beforeAll(async () => {
  ({ db } = await testWorkspace());
});

const stream = (bytes: Uint8Array) => new Blob([new Uint8Array(bytes)]).stream();
const drawn = (side: number) => sharp({ create: { width: side, height: side, channels: 3, background: "#27c" } });
const keep = (bytes: Uint8Array, name = "p") => keepPicture(db, "test", name, stream(bytes));

describe("uploaded pictures", () => {
  it("are kept once, whatever they are called, and come back as they were", async () => {
    const side = CHANNEL_LIMITS.pictureSide;
    for (const format of ["png", "jpeg", "webp"] as const) {
      const bytes = await drawn(side).toFormat(format).toBuffer();
      const [first, again] = [await keep(bytes, "one"), await keep(bytes, "two")];
      if (!first.ok || !again.ok) throw new Error("not kept");
      expect(again.value.id).toBe(first.value.id);
      expect(first.value).toMatchObject({ width: side, height: side });
      const found = await findPicture(db, first.value.id);
      expect(found).toMatchObject({ ok: true, value: { name: "one", type: `image/${format}` } });
      expect(found.ok && Buffer.compare(found.value.content, bytes)).toBe(0);
    }
    expect(await listPictures(db)).toHaveLength(3);
  });

  it("are refused with what is wrong: no picture, another form, too small, too large, cut off, gone", async () => {
    const code = async (bytes: Uint8Array) => {
      const kept = await keep(bytes);
      return kept.ok ? "kept" : kept.error.code;
    };
    expect(await code(Buffer.from("<svg xmlns='http://www.w3.org/2000/svg' width='900' height='900'/>"))).toBe(
      "picture-unreadable",
    );
    expect(await code(Buffer.from("hello"))).toBe("picture-unreadable");
    expect(await code(new Uint8Array(0))).toBe("picture-unreadable");
    expect(await code((await drawn(900).png().toBuffer()).subarray(0, 12))).toBe("picture-unreadable");
    expect(await code(await drawn(900).gif().toBuffer())).toBe("picture-unreadable");
    expect(
      await code(
        await drawn(CHANNEL_LIMITS.pictureSide - 1)
          .png()
          .toBuffer(),
      ),
    ).toBe("picture-small");
    expect(await code(new Uint8Array(CHANNEL_LIMITS.pictureBytes + 1))).toBe("picture-too-large");
    expect(await findPicture(db, "none")).toMatchObject({ ok: false, error: { code: "picture-unknown" } });
    expect(await keepPicture(db, "test", "none", null)).toMatchObject({ ok: false });
  });
});
