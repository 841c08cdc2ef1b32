import { ACCOUNT_VERSION } from "@/core/account/version-header";
import { FROM_HEADER } from "../sign-in/asker";
import { PREFIX } from "../api/prefix";
import { FIRST_ASK } from "../read/first-asks";
import type { AskOwn } from "./for-pages";
import { atCounter, clientOf } from "./front";

/** Headers by which the API knows who asks. */
const OF_ASKER = ["host", "cookie", FROM_HEADER];

/** Asks a counter for a page that is being made. */
export const askCounter: AskOwn = (path, headers, signal) =>
  atCounter("GET", path.split("?")[0]!, async (socket) => {
    const client = clientOf(socket, signal);
    try {
      const known = OF_ASKER.flatMap((name) => (headers.has(name) ? [[name, headers.get(name)!]] : []));
      const answered = await client.request({
        path: PREFIX + path,
        method: "GET",
        headers: {
          ...(Object.fromEntries(known) as Record<string, string>),
          "sec-fetch-site": "same-origin",
          [FIRST_ASK]: "1",
        },
        signal,
      });
      if (answered.statusCode !== 200) {
        // Left unread it would break off with its connection, and nobody would hear it.
        await answered.body.dump();
        return null;
      }
      const version = answered.headers[ACCOUNT_VERSION];
      return { body: await answered.body.json(), version: version === undefined ? null : Number(version) };
    } catch {
      return null;
    } finally {
      client.destroy().catch(() => {});
    }
  });
