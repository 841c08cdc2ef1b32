import { createServer, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { lastWeek } from "@/core/alerts/digest";
import { testCampaign } from "@/core/market/test-shop";
import type { Database } from "@/db/client";
import { forgetSettings } from "../settings";
import { importFeed, runAccount, runToEnd, testWorkspace } from "../testing";
import type { WorkspaceInfo } from "../workspaces";
import { lookAtAlerts, putAside, queueDueAlerts, setAlert, viewAlerts } from "./look";
import { sendDue, sendTest, setAddress, signatureOf, viewAddress } from "./messages";
import { listWeeks, viewWeek, weekFile, weekToTell } from "./week";

const FIRST = 20_700;
const LAST = FIRST + 40;
const FEED = `id,title,price,brand,availability\n${Array.from(
  { length: 20 },
  (_, i) => `I${i},Oak rake ${i},${3 + i},Makerly,${i < 4 ? "out of stock" : "in stock"}`,
).join("\n")}\n`;

let db: Database;
let info: WorkspaceInfo;
let server: Server;
let address: string;
let answers = 204;
const arrived: { id: string; seconds: number; signature: string; body: string }[] = [];

beforeAll(async () => {
  process.env["HOTSHELF_PRIVATE_ADDRESSES"] = "true";
  forgetSettings();
  server = createServer((request, response) => {
    const parts: Buffer[] = [];
    request.on("data", (part: Buffer) => parts.push(part));
    request.on("end", () => {
      const { headers } = request;
      arrived.push({
        id: String(headers["webhook-id"]),
        seconds: Number(headers["webhook-timestamp"]),
        signature: String(headers["webhook-signature"]),
        body: Buffer.concat(parts).toString(),
      });
      response.writeHead(answers).end();
    });
  });
  await new Promise<void>((done) => server.listen(0, "127.0.0.1", done));
  address = `http://127.0.0.1:${(server.address() as AddressInfo).port}/hook`;
  ({ db, info } = await testWorkspace());
  await importFeed({ db, info }, FEED);
  const all = Array.from({ length: 15 }, (_, i) => `I${i}`);
  const campaign = testCampaign("c:a", { name: "Feed", dailyBudget: 900_000 }, all, 900);
  await runAccount({ db, info }, campaign, { from: FIRST, through: LAST, seed: "s" });
});

afterAll(() => {
  delete process.env["HOTSHELF_PRIVATE_ADDRESSES"];
  forgetSettings();
  server.close();
});

const standing = async (kind: string) => (await viewAlerts(db)).alerts.find((one) => one.kind === kind)!;
const value = <T>(outcome: { ok: true; value: T } | { ok: false; error: { message: string } }): T => {
  if (!outcome.ok) throw new Error(outcome.error.message);
  return outcome.value;
};

describe("alerts of a workspace", () => {
  it("are due once, and again when results have new days", async () => {
    const waiting = async () => {
      const { rows } = await db.$client.execute("SELECT count(*) AS n FROM jobs WHERE kind = 'alerts'");
      return Number(rows[0]!["n"]);
    };
    await queueDueAlerts(db);
    await queueDueAlerts(db);
    expect(await waiting()).toBe(1);
    await db.$client.execute("UPDATE jobs SET state = 'done' WHERE kind = 'alerts'");
    await lookAtAlerts(db, info);
    await queueDueAlerts(db);
    expect(await waiting()).toBe(1);
    await db.$client.execute("UPDATE alert_looks SET day = day - 1");
    await queueDueAlerts(db);
    expect(await waiting()).toBe(2);
    await db.$client.execute("UPDATE jobs SET state = 'done' WHERE kind = 'alerts'");
  });

  it("speak by the same figures that SQL has", async () => {
    await lookAtAlerts(db, info);
    const { rows } = await db.$client.execute({
      sql: `SELECT sum(cost) AS cost, sum(cost) FILTER (WHERE item_no IN (
        SELECT item_no FROM items WHERE item_id IN ('I0', 'I1', 'I2', 'I3'))) AS gone FROM item_facts
        WHERE day > ?`,
      args: [LAST - 7],
    });
    const share = (100 * Number(rows[0]!["gone"])) / Number(rows[0]!["cost"]);
    const soldOut = await standing("sold-out");
    expect(share).toBeGreaterThan(0);
    expect(soldOut.state).toBe(share > 3 ? "speaks" : "quiet");
    expect(soldOut.says).toContain(`${share.toFixed(1)} % of the spend`);
    // Five items were left without a home.
    expect(await standing("homeless")).toMatchObject({ state: "quiet", says: "5 items without a home." });
    value(await setAlert(db, info, { kind: "homeless", isOn: true, limit: 4 }));
    expect(await standing("homeless")).toMatchObject({ state: "speaks", limit: 4 });
    expect(await standing("turned")).toMatchObject({ state: "unknown" });
  });

  it("are put aside until they are quiet again", async () => {
    expect((await putAside(db, "ann", "feed", { reason: "why" })).ok).toBe(false);
    value(await putAside(db, "ann", "homeless", { reason: "on purpose" }));
    await lookAtAlerts(db, info);
    expect(await standing("homeless")).toMatchObject({ state: "speaks", aside: "on purpose", asideBy: "ann" });
    value(await setAlert(db, info, { kind: "homeless", isOn: true, limit: 5 }));
    value(await setAlert(db, info, { kind: "homeless", isOn: true, limit: 4 }));
    expect(await standing("homeless")).toMatchObject({ state: "speaks", aside: null });
  });

  it("are sent signed when they begin to speak, once, and tried again where they do not arrive", async () => {
    expect((await sendTest(db, info)).ok).toBe(false);
    const { secret } = value(
      await setAddress(db, { url: address, sendsAlerts: true, sendsWeeks: true, newSecret: false }),
    );
    const { rows } = await db.$client.execute("SELECT secret FROM alert_address");
    expect(String(rows[0]!["secret"])).not.toContain(secret);
    value(await setAlert(db, info, { kind: "homeless", isOn: true, limit: 5 }));
    value(await setAlert(db, info, { kind: "homeless", isOn: true, limit: 4 }));
    await lookAtAlerts(db, info);
    answers = 500;
    const now = Date.now();
    expect(await sendDue(db, now)).toBe(0);
    expect((await viewAddress(db)).messages).toMatchObject([
      { what: "alert.speaks", state: "waiting", tries: 1, note: "It answered with 500." },
    ]);
    expect(await sendDue(db, now)).toBe(0);
    expect(arrived).toHaveLength(1);
    answers = 204;
    expect(await sendDue(db, now + 5 * 60_000)).toBe(1);
    const [first, again] = arrived;
    expect(again!.id).toBe(first!.id);
    expect(again!.signature).toBe(signatureOf(secret!, again!.id, again!.seconds, again!.body));
    expect(again!.signature).not.toBe(signatureOf(secret!, again!.id, again!.seconds, `${again!.body} `));
    expect(JSON.parse(again!.body)).toMatchObject({
      type: "alert.speaks",
      data: { workspace: info.slug, alert: "homeless", says: "5 items without a home.", limit: 4 },
    });
    value(await sendTest(db, info));
    expect(JSON.parse(arrived.at(-1)!.body)).toMatchObject({ type: "test" });
  });

  it("sign as the standard's own example has it", () => {
    const secret = "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw";
    const body = '{"test": 2432232314}';
    expect(signatureOf(secret, "msg_p5jXN8AQM9LWM0D4loKWxJek", 1614265330, body)).toBe(
      "v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE=",
    );
  });
});

describe("a week", () => {
  it("is told once by itself, with the sums that SQL has, and sent", async () => {
    const week = lastWeek(LAST);
    expect(await weekToTell(db)).toEqual(week);
    const before = arrived.length;
    const job = await runToEnd(db, info, "alerts", {});
    expect(job.error).toBeNull();
    expect(await weekToTell(db)).toBeNull();
    expect((await runToEnd(db, info, "alerts", {})).result).toMatchObject({ week: null });
    const [line] = await listWeeks(db);
    const { week: sums, before: then, found, alerts } = value(await viewWeek(db, line!.id));
    const sql = async (from: number) => {
      const { rows } = await db.$client.execute({
        sql: "SELECT sum(cost), sum(revenue), sum(orders) FROM item_facts WHERE day BETWEEN ? AND ?",
        args: [from, from + 6],
      });
      return [0, 1, 2].map((at) => Number(rows[0]![at]));
    };
    expect([sums.cost, sums.revenue, sums.orders]).toEqual(await sql(week.from));
    expect([then!.cost, then!.revenue, then!.orders]).toEqual(await sql(week.from - 7));
    expect(alerts.map(({ kind }) => kind)).toContain("homeless");
    expect(found!.mended).toBeNull();
    expect(await sendDue(db)).toBe(1);
    expect(arrived).toHaveLength(before + 1);
    expect(JSON.parse(arrived.at(-1)!.body)).toMatchObject({ type: "week.told", data: { from: week.from } });
    const file = value(await weekFile(db, info, line!.id, "html"));
    expect(file.file).toContain("5 items without a home.");
  });

  it("says what was mended since the one before", async () => {
    await db.$client.execute("UPDATE digests SET from_day = from_day - 7, found = json_insert(found, '$[#]', 'gone')");
    await runToEnd(db, info, "alerts", {});
    const [line] = await listWeeks(db);
    expect(value(await viewWeek(db, line!.id)).found).toMatchObject({ mended: 1, fresh: 0 });
  });
});
