// @vitest-environment jsdom
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, renderHook, waitFor } from "@testing-library/react";
import type { ReactNode } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { useChange, useEdit } from "../w/[workspace]/use-edit";
import { ApiError, apiGet, useApi, useAsk } from "./api";
import { shareSeen } from "./seen";
import { WorkspaceProvider } from "./workspace";

type Asked = { path: string; body: unknown; signal: AbortSignal | undefined };

const asked: Asked[] = [];
/** The version of the account that the server has. */
let onServer = 4;
/** What the server answers; a promise that stays open is an answer that is on its way. */
let answer: (request: Asked) => unknown;

beforeEach(() => {
  asked.length = 0;
  vi.stubGlobal("fetch", async (path: string, init?: RequestInit) => {
    const request = {
      path: path.replace("/api/v1/", ""),
      body: typeof init?.body === "string" ? (JSON.parse(init.body) as unknown) : null,
      signal: init?.signal ?? undefined,
    };
    asked.push(request);
    const version = String(onServer);
    return Response.json(await answer(request), { headers: { "hot-shelf-account": version } });
  });
});

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const info = { slug: "lamps", name: "Lamps", currency: "EUR" } as Parameters<typeof WorkspaceProvider>[0]["value"];

const kept = { defaultOptions: { queries: { staleTime: 60_000, structuralSharing: shareSeen } } };

function shell(client = new QueryClient(kept)) {
  return function Shell({ children }: { children: ReactNode }) {
    return (
      <QueryClientProvider client={client}>
        <WorkspaceProvider value={info}>{children}</WorkspaceProvider>
      </QueryClientProvider>
    );
  };
}

describe("a question about a draft", () => {
  it("is kept by path, so that one workspace never shows the answer of another", async () => {
    answer = ({ path }) => ({ of: path });
    const { result, rerender } = renderHook(({ path }) => useAsk<{ of: string }>(path, { name: "the same" }), {
      wrapper: shell(),
      initialProps: { path: "lamps/preview" },
    });
    await waitFor(() => expect(result.current.data).toEqual({ of: "lamps/preview" }));
    rerender({ path: "rugs/preview" });
    expect(result.current.data).toBeUndefined();
    await waitFor(() => expect(result.current.data).toEqual({ of: "rugs/preview" }));
    rerender({ path: "lamps/preview" });
    expect(result.current.data).toEqual({ of: "lamps/preview" });
    expect(asked.map(({ path }) => path)).toEqual(["lamps/preview", "rugs/preview"]);
  });

  it("that takes long is ended when another one takes its place", async () => {
    answer = ({ body }) => ((body as { no: number }).no === 1 ? new Promise(() => {}) : { done: 2 });
    const { result, rerender } = renderHook(
      ({ no }) => useAsk<{ done: number }>("lamps/preview", { no }, { isLong: true }),
      {
        wrapper: shell(),
        initialProps: { no: 1 },
      },
    );
    await waitFor(() => expect(asked).toHaveLength(1));
    rerender({ no: 2 });
    await waitFor(() => expect(result.current.data).toEqual({ done: 2 }));
    expect(asked.map(({ signal }) => signal?.aborted)).toEqual([true, false]);
  });
});

describe("an edit of the account", () => {
  it("is told as soon as it is in the basket, before the figures are read anew", async () => {
    const order: string[] = [];
    let figures = () => {};
    answer = ({ path, body }) => {
      if (body) return { changes: 1, words: "Paused", version: 5, diff: {} };
      order.push(`${path} read`);
      return order.length === 1 ? { spend: 1 } : new Promise((resolve) => (figures = () => resolve({ spend: 2 })));
    };
    const { result } = renderHook(
      () => ({ edit: useEdit(), figures: useApi<{ spend: number }>("lamps/figures").data }),
      { wrapper: shell() },
    );
    await waitFor(() => expect(result.current.figures).toEqual({ spend: 1 }));
    const done = result.current.edit({ action: "status", keys: ["c"], status: "paused" }, () => order.push("taken"));
    await waitFor(() => expect(order).toEqual(["lamps/figures read", "taken", "lamps/figures read"]));
    figures();
    expect(await done).toBe(true);
    expect(asked[1]!.path).toBe("lamps/account/edits?version=4");
  });

  it("goes on from one's own last edit, though the screen is still behind it", async () => {
    onServer = 5;
    answer = ({ path, body }) =>
      body ? { changes: 1, words: "Paused", version: path.endsWith("=6") ? 7 : 6, diff: {} } : { spend: 1 };
    const { result } = renderHook(() => ({ edit: useEdit(), figures: useApi("lamps/figures").data }), {
      wrapper: shell(),
    });
    await waitFor(() => expect(result.current.figures).toBeDefined());
    await result.current.edit({ action: "status", keys: ["c"], status: "paused" });
    await result.current.edit({ action: "status", keys: ["c"], status: "on" });
    const edits = asked.filter(({ body }) => body).map(({ path }) => path);
    expect(edits).toEqual(["lamps/account/edits?version=5", "lamps/account/edits?version=6"]);
  });

  it("says the version of what is on screen longest, and a form that of when it was opened", async () => {
    [onServer, answer] = [20, ({ body }) => (body ? { changes: 0 } : { on: "screen" })];
    const client = new QueryClient(kept);
    const wrapper = shell(client);
    const { result, rerender } = renderHook(
      ({ isOpen }) => ({
        rows: useApi("lamps/rows").data,
        more: useApi(isOpen ? "lamps/more" : null).data,
        inRow: useChange(),
      }),
      { wrapper, initialProps: { isOpen: false } },
    );
    await waitFor(() => expect(result.current.rows).toBeDefined());
    // Somebody else writes, and only what is opened now shows it.
    onServer = 23;
    rerender({ isOpen: true });
    await waitFor(() => expect(result.current.more).toBeDefined());
    await result.current.inRow("account/records", { put: [] });
    expect(asked.at(-1)!.path).toBe("lamps/account/records?version=20");
    // A form that opens now was filled in on the oldest of that; what is read anew meanwhile does not change it.
    const { result: form } = renderHook(() => useChange(true), { wrapper });
    await client.invalidateQueries();
    await result.current.inRow("account/records", { put: [] });
    expect(asked.at(-1)!.path).toBe("lamps/account/records?version=23");
    await form.current("account/records", { put: [] });
    expect(asked.at(-1)!.path).toBe("lamps/account/records?version=20");
  });

  it("is not sent while nothing tells what is on screen", async () => {
    answer = () => ({ changes: 1 });
    const { result } = renderHook(() => useChange(), { wrapper: shell() });
    await expect(result.current("negatives", {})).rejects.toMatchObject({ failure: { code: "page-unread" } });
    expect(asked).toEqual([]);
  });
});

describe("an answer", () => {
  it("that is no answer of ours is told in a sentence, and so is a server that is away", async () => {
    vi.stubGlobal("fetch", async () => new Response("<html>Bad gateway", { status: 502 }));
    await expect(apiGet("lamps/till")).rejects.toMatchObject({
      status: 502,
      failure: { code: "no-answer", message: "The server answered 502 without saying why." },
    });
    vi.stubGlobal("fetch", () => Promise.reject(new TypeError("fetch failed")));
    const away = await apiGet("lamps/till").catch((error: unknown) => error);
    expect(away).toBeInstanceOf(ApiError);
    expect(away).toMatchObject({ status: 0, failure: { code: "offline" } });
  });
});
