import { afterEach, describe, expect, it } from "vitest";
import { exposureFault, isSecure } from "../exposure";
import { forgetSettings, isSignInOn } from "../settings";
import { turnedAway, vouchFor, type Knock } from "./gate";

const NAMES = ["HOST", "HOTSHELF_TRUSTED_PROXY", "HOTSHELF_TLS_CERT", "HOTSHELF_TLS_KEY", "HOTSHELF_ALLOWED_HOSTS"];

function set(values: Record<string, string>): void {
  for (const name of NAMES) delete process.env[name];
  Object.assign(process.env, values);
  forgetSettings();
}
afterEach(() => set({}));

const knock = (change: Partial<Knock> = {}): Knock => ({
  ...{ method: "GET", url: "/w/shop", headers: { host: "127.0.0.1:4310" }, remote: "127.0.0.1" },
  ...change,
});
const status = (change: Partial<Knock> = {}) => turnedAway(knock(change))?.status ?? 200;

describe("the gate", () => {
  it("turns away what no page and no operation should see", () => {
    set({});
    expect(status()).toBe(200);
    expect(status({ headers: { host: "evil.example" } })).toBe(421);
    expect(status({ method: "FROB" })).toBe(405);
    expect(status({ url: "/w/%zz" })).toBe(400);
    expect(status({ url: "/w/shop?q=%zz" })).toBe(200);
    expect(status({ url: `/${"a".repeat(20_000)}` })).toBe(414);
  });

  it("answers behind a proxy that one only, and this machine, so that no password comes in plain", () => {
    set({ HOST: "0.0.0.0", HOTSHELF_TRUSTED_PROXY: "10.0.0.2, 10.0.0.3", HOTSHELF_ALLOWED_HOSTS: "shop.example" });
    const from = (remote: string) => status({ remote, headers: { host: "shop.example" } });
    expect(["10.0.0.2", "::ffff:10.0.0.3", "127.0.0.1", "::1"].map(from)).toEqual([200, 200, 200, 200]);
    expect(["10.0.0.4", "192.168.1.9", "::ffff:8.8.8.8"].map(from)).toEqual([403, 403, 403]);
    set({ HOST: "0.0.0.0", HOTSHELF_TLS_CERT: "c", HOTSHELF_TLS_KEY: "k" });
    expect(status({ remote: "10.0.0.4" })).toBe(200);
  });
});

describe("where a request comes from", () => {
  const heard = (headers: Record<string, string>, remote: string) => {
    const one = knock({ headers, remote });
    vouchFor(one);
    return one.headers;
  };

  it("is what the connection says, whatever the request claims", () => {
    set({});
    const claims = {
      "x-forwarded-for": "1.2.3.4",
      "x-forwarded-host": "evil",
      forwarded: "for=1.2.3.4",
      "x-real-ip": "1.2.3.4",
    };
    expect(heard({ ...claims, "x-hot-shelf-from": "1.2.3.4", accept: "a" }, "::ffff:9.9.9.9")).toEqual({
      accept: "a",
      "x-hot-shelf-from": "9.9.9.9",
    });
  });

  it("is what a trusted proxy saw itself, not what it was told", () => {
    set({ HOTSHELF_TRUSTED_PROXY: "10.0.0.2" });
    const told = { "x-forwarded-for": "6.6.6.6, 7.7.7.7" };
    expect(heard({ ...told }, "10.0.0.2")).toEqual({ "x-hot-shelf-from": "7.7.7.7" });
    expect(heard({ ...told }, "10.0.0.9")).toEqual({ "x-hot-shelf-from": "10.0.0.9" });
    expect(heard({}, "10.0.0.2")).toEqual({ "x-hot-shelf-from": "10.0.0.2" });
  });
});

describe("beyond this machine", () => {
  it.each([
    [{}, false, false, null],
    [{ HOST: "localhost" }, false, false, null],
    [{ HOST: "0.0.0.0" }, true, false, /plain text/],
    [{ HOST: "0.0.0.0", HOTSHELF_TLS_CERT: "c" }, true, false, /go together/],
    [{ HOST: "0.0.0.0", HOTSHELF_TLS_CERT: "c", HOTSHELF_TLS_KEY: "k" }, true, true, null],
    [{ HOST: "192.168.1.5", HOTSHELF_TRUSTED_PROXY: "10.0.0.2" }, true, true, null],
    [{ HOTSHELF_TRUSTED_PROXY: "127.0.0.1" }, true, true, null],
  ])("%o: people sign in %s, over TLS %s", (values, signIn, secure, fault) => {
    set(values as Record<string, string>);
    expect([isSignInOn(), isSecure()]).toEqual([signIn, secure]);
    if (fault === null) expect(exposureFault()).toBeNull();
    else expect(exposureFault()).toMatch(fault);
  });
});
