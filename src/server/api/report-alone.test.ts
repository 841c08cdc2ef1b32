import { beforeAll, describe, expect, it } from "vitest";
import { read } from "../results/reports/testing";
import { testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { ENDPOINTS } from "./endpoints";
import { handleApi } from "./handle";

/** A workspace of one report, as "Look at one file" makes it: no feed, no campaigns, nothing sent. */

let info: WorkspaceInfo;

beforeAll(async () => {
  const workspace = await testWorkspace();
  info = workspace.info;
  const rows = Array.from({ length: 40 }, (_, i) => {
    const day = `2026-09-${String((i % 28) + 1).padStart(2, "0")}`;
    return `${day},Generic,hose,broad,term ${i % 5},${100 + i},${10 + i},${5 + i}.00,${i % 3},${20 * (i % 3)}`;
  });
  const text = `day,campaign,keyword,match type,search term,impressions,clicks,spend,orders,sales\n${rows.join("\n")}\n`;
  const job = await read(workspace, "term", text);
  expect(job.error).toBeNull();
});

describe("a workspace of one report", () => {
  const asked = ENDPOINTS.flatMap(({ workspace, method, path }) =>
    workspace && method === "GET" && !path.includes("{") ? [path] : [],
  );

  it("has operations to ask", () => expect(asked.length).toBeGreaterThan(40));

  it.each(asked)("answers %s in words", async (path) => {
    const url = `http://localhost/api/v1/${info.slug}/${path}`;
    const response = await handleApi(new Request(url), `${info.slug}/${path}`);
    const text = await response.text();
    expect(response.status, text.slice(0, 300)).toBeLessThan(500);
  });
});
