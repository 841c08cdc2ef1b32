import { readdirSync } from "node:fs";
import path from "node:path";
import { afterEach, describe, expect, it } from "vitest";
import { FailureError } from "@/core/kit/outcome";
import { dataDir, forgetSettings } from "../settings";
import { storeUpload, takeUpload } from "./uploads";

const body = (bytes: number) => new Blob([new Uint8Array(bytes)]).stream() as never;
const left = (slug: string) => readdirSync(path.join(dataDir(), "uploads", slug));

afterEach(() => {
  delete process.env["HOTSHELF_UPLOADS_MB"];
  forgetSettings();
});

async function codeOf(work: Promise<unknown>): Promise<string> {
  const error: unknown = await work.then(
    () => null,
    (failure: unknown) => failure,
  );
  return error instanceof FailureError ? error.failure.code : String(error);
}

describe("uploads", () => {
  it("of one workspace have so much room and no more, while another's have theirs", async () => {
    process.env["HOTSHELF_UPLOADS_MB"] = "1";
    forgetSettings();
    await storeUpload("full", body(700_000));
    // The second would go beyond it: it is refused on the way, and nothing of it stays.
    expect(await codeOf(storeUpload("full", body(700_000)))).toBe("upload-quota-too-large");
    expect(left("full")).toHaveLength(1);
    await storeUpload("full", body(348_576));
    expect(await codeOf(storeUpload("full", body(1)))).toBe("upload-quota-too-large");
    await storeUpload("other", body(700_000));
    expect([left("full").length, left("other").length]).toEqual([2, 1]);
  });

  it("that are refused at the first look are gone at once, and so are those that need no second", async () => {
    const refusing = takeUpload("looked", body(10), () => Promise.reject(new Error("no feed")), true);
    expect(await codeOf(refusing)).toBe("Error: no feed");
    expect(await takeUpload("looked", body(10), async () => "read", false)).toBe("read");
    expect(left("looked")).toEqual([]);
    await takeUpload("looked", body(10), async () => "mapped", true);
    expect(left("looked")).toHaveLength(1);
  });
});
