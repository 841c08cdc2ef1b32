import { blob, integer, sqliteTable, text } from "drizzle-orm/sqlite-core";

/** Pictures that people uploaded for ads. The ID is made of the content, so the same picture is kept once. */
export const pictures = sqliteTable("pictures", {
  id: text().primaryKey(),
  name: text().notNull(),
  /** Its type on the web, such as `image/png`. */
  type: text().notNull(),
  /** Pixels. */
  width: integer().notNull(),
  height: integer().notNull(),
  content: blob({ mode: "buffer" }).notNull(),
  who: text().notNull(),
  at: integer().notNull(),
});
