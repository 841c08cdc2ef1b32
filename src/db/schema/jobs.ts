import { index, integer, sqliteTable, text } from "drizzle-orm/sqlite-core";

/** Long work, run by the runner process. Times are milliseconds since 1970. */
export const jobs = sqliteTable(
  "jobs",
  {
    id: text().primaryKey(),
    kind: text().notNull(),
    input: text({ mode: "json" }).notNull().$type<unknown>(),
    state: text({ enum: ["waiting", "running", "done", "failed", "cancelled"] }).notNull(),
    done: integer().notNull().default(0),
    total: integer(),
    unit: text().notNull().default(""),
    result: text({ mode: "json" }).$type<unknown>(),
    error: text({ mode: "json" }).$type<{ code: string; message: string; hint?: string }>(),
    cancelAsked: integer("cancel_asked", { mode: "boolean" }).notNull().default(false),
    attempts: integer().notNull().default(0),
    /** Process that runs it, and when it last showed life. */
    runner: text(),
    heartbeat: integer(),
    /** Who asked for it. */
    who: text().notNull().default(""),
    /** A waiting job is not taken up before this time. */
    notBefore: integer("not_before"),
    createdAt: integer("created_at").notNull(),
    endedAt: integer("ended_at"),
  },
  (table) => [index("jobs_by_state").on(table.state, table.createdAt)],
);
