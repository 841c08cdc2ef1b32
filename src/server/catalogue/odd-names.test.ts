import { beforeAll, describe, expect, it } from "vitest";
import { derivedFieldSchema } from "@/core/catalogue/derive/derived-field";
import { finishColumns } from "@/core/catalogue/finish";
import { textColumn } from "@/core/kit/columns";
import { handleApi } from "../api/handle";
import { importFeed, testWorkspace } from "../testing";

/** Names that every usual object answers to, though nobody put anything there. */
const ODD = ["__proto__", "constructor", "toString", "hasOwnProperty", "__defineGetter__", "valueOf"];

type Workspace = Awaited<ReturnType<typeof testWorkspace>>;
let workspace: Workspace;

async function ask(method: string, path: string, body?: unknown) {
  const where = `${workspace.info.slug}/${path}`;
  const request = new Request(`http://127.0.0.1/api/v1/${where}`, {
    method,
    headers: { "content-type": "application/json" },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });
  const response = await handleApi(request, where.split("?")[0]!);
  return { status: response.status, body: (await response.json()) as Record<string, unknown> };
}

const FEED = "id,title,price,availability,__proto__,constructor\n1,Rake,5,constructor,a,b\n2,Hoe,6,__proto__,c,d\n";

beforeAll(async () => {
  workspace = await testWorkspace();
  expect((await importFeed(workspace, FEED)).error).toBeNull();
});

describe("names that objects answer to by themselves", () => {
  it.each(ODD)("%s as what a derived field asks about stops no reading and no page", async (name) => {
    const condition = { field: name, op: "contains", value: "a" };
    const output = (steps: object[] = []) => ({ parts: [{ field: name }, { text: "x" }], by: " ", steps });
    const field = {
      ...{ key: "odd", name: "Odd", kind: "text" },
      rules: [
        { when: { match: "all", of: [condition] }, then: [output()] },
        { when: { match: "all", of: [] }, then: [output([{ do: "arithmetic", op: "add", by: 1, field: name }])] },
      ],
    };
    const preview = await ask("POST", "derived/preview", { field });
    expect(preview.status).toBeLessThan(500);
    const kept = await ask("POST", "derived", field);
    expect([kept.status, kept.body]).toEqual([
      expect.any(Number),
      expect.not.objectContaining({ error: expect.anything() }),
    ]);
    const again = await importFeed(workspace, FEED.replace("Rake", `Rake ${name}`));
    expect([again.error, again.result]).toEqual([null, expect.objectContaining({ stored: 2 })]);
    const query = new URLSearchParams({
      sort: name,
      columns: `${name},derived:odd`,
      filter: JSON.stringify({ match: "all", of: [condition] }),
    });
    for (const path of ["items", `items?${query}`, "fields", `items?sort=${name}`, `results?level=${name}`, `feeds`]) {
      expect([path, (await ask("GET", path)).status < 500]).toEqual([path, true]);
    }
    expect((await ask("DELETE", "derived/odd")).status).toBe(200);
  });

  it("as words for availability mean nothing", async () => {
    const { body } = await ask("GET", "items?columns=availability");
    const items = body["items"] as { availability: string }[];
    expect(items.map(({ availability }) => availability)).toEqual(["not known", "not known"]);
  });

  it("a field that can't be worked out is left out and said, and all others come", () => {
    const field = (key: string, part: object) =>
      derivedFieldSchema.parse({
        key,
        name: key,
        rules: [{ when: { match: "all", of: [] }, then: [{ parts: [part] }] }],
      });
    const settings = {
      ...{ derived: [], lists: [], costs: new Map(), proposedFamilies: false },
      tax: { rate: 0, price: false, cost: false, fee: false },
    };
    const feed = { length: 1, columns: { id: textColumn(["1"]), title: textColumn(["Rake"]) } };
    // Circles and gaps are looked for before; what is left is a rule that fails in itself.
    const bad = {
      ...field("bad", { text: "x" }),
      kind: "text",
      rules: [
        { when: { match: "all", of: [] }, then: [{ parts: [{ text: "x" }], by: " ", steps: [{ do: "none such" }] }] },
      ],
    } as never;
    const { columns, notices } = finishColumns(feed, {
      ...settings,
      derived: [bad, field("good", { field: "title" })],
    });
    expect(notices).toEqual(['The derived field "bad" could not be worked out and was left out. Look at its rules.']);
    expect(Object.keys(columns).filter((name) => name.startsWith("derived:"))).toEqual(["derived:good"]);
  });
});
