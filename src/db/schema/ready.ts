import { blob, integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";

/** What was worked out from the workspace's rows, stored so that another process need not do it again; see `server/read/ready.ts`. */
export const ready = sqliteTable(
  "ready",
  {
    /** What it is, the same for all of its kind. */
    name: text().notNull(),
    /** The revisions it is made of, and what was asked, as JSON. */
    stamp: text().notNull(),
    /** The build that made it: another one may work it out otherwise. */
    build: text().notNull(),
    body: blob({ mode: "buffer" }).notNull(),
    at: integer().notNull(),
  },
  (table) => [primaryKey({ columns: [table.name, table.stamp] })],
);

/** What pages asked first lately, paths within the workspace: what is made ready for them when something new is in force. */
export const firstAsks = sqliteTable("first_asks", {
  path: text().primaryKey(),
  at: integer().notNull(),
});
