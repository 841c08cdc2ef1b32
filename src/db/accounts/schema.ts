import { index, integer, primaryKey, sqliteTable, text } from "drizzle-orm/sqlite-core";

/** People who may sign in. One database for the installation, beside the workspaces'. */
export const people = sqliteTable("people", {
  id: text().primaryKey(),
  /** In small letters. */
  email: text().notNull().unique(),
  name: text().notNull(),
  /** Argon2id, with its parameters and salt. */
  passwordHash: text("password_hash").notNull(),
  /** The secret of one-time codes, sealed; null where they are not asked for. */
  codeSecret: text("code_secret"),
  /** The last time step whose code was used, so that none is taken twice. */
  codeStep: integer("code_step"),
  /** Whoever set the installation up, and whom they made so: owner of every workspace, and the only ones to make new ones. */
  isFounder: integer("is_founder", { mode: "boolean" }).notNull().default(false),
  createdAt: integer("created_at").notNull(),
});

/** What a person may do in a workspace. */
export const roles = sqliteTable(
  "roles",
  {
    person: text().notNull(),
    workspace: text().notNull(),
    role: text({ enum: ["viewer", "editor", "sender", "owner"] }).notNull(),
  },
  (table) => [primaryKey({ columns: [table.person, table.workspace] })],
);

/** Who is signed in. Of the session's secret only its hash is kept. */
export const sessions = sqliteTable(
  "sessions",
  {
    hash: text().primaryKey(),
    /** By which it is named in lists. */
    id: text().notNull().unique(),
    person: text().notNull(),
    createdAt: integer("created_at").notNull(),
    seenAt: integer("seen_at").notNull(),
    /** When the password was given last. */
    provedAt: integer("proved_at").notNull(),
    agent: text().notNull(),
  },
  (table) => [index("sessions_of_person").on(table.person)],
);

/** Links by which somebody becomes a person here, or gets a new password: used once, and not for long. */
export const invitations = sqliteTable("invitations", {
  hash: text().primaryKey(),
  id: text().notNull().unique(),
  /** The person whose password it renews; null for somebody new. */
  person: text(),
  /** Null for the founder's, who names theirs. */
  email: text(),
  workspace: text(),
  role: text({ enum: ["viewer", "editor", "sender", "owner"] }),
  makesFounder: integer("makes_founder", { mode: "boolean" }).notNull().default(false),
  createdBy: text("created_by").notNull(),
  /** The person who made it, whose role is looked at when it is used; null where it was made on this machine itself. */
  maker: text(),
  expiresAt: integer("expires_at").notNull(),
});

/** Keys for scripts: for one workspace, one role, and a time. */
export const tokens = sqliteTable("tokens", {
  hash: text().primaryKey(),
  id: text().notNull().unique(),
  name: text().notNull(),
  workspace: text().notNull(),
  role: text({ enum: ["viewer", "editor", "sender", "owner"] }).notNull(),
  createdBy: text("created_by").notNull(),
  /** As of invitations: a key never opens more than its maker may at that time. */
  maker: text(),
  createdAt: integer("created_at").notNull(),
  expiresAt: integer("expires_at").notNull(),
  usedAt: integer("used_at"),
});

/** Failed tries to sign in, by what they count for; see `sign-in/throttle.ts`. */
export const tries = sqliteTable("tries", {
  key: text().primaryKey(),
  failures: integer().notNull(),
  /** When they are forgotten. */
  until: integer().notNull(),
});

/** The workspaces of this installation, in the order they were made. */
export const registry = sqliteTable("registry", {
  position: integer().primaryKey({ autoIncrement: true }),
  slug: text().notNull().unique(),
  /** Since when it is being made; null once it is there. */
  makingSince: integer("making_since"),
});

/** Who signed in, was refused, or changed what others may do. */
export const accessLog = sqliteTable(
  "access_log",
  {
    id: integer().primaryKey({ autoIncrement: true }),
    at: integer().notNull(),
    who: text().notNull(),
    what: text().notNull(),
    /** Null where it is about no workspace. */
    workspace: text(),
    from: text().notNull(),
  },
  (table) => [index("access_by_time").on(table.at)],
);
