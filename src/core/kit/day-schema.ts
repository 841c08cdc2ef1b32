import { z } from "zod";

/** A calendar day as people and files give it: `YYYY-MM-DD`, from 2000 to 2100. Other years are slips of the pen. */
export const daySchema = z.iso
  .date("a day such as 2026-11-27")
  .refine((text) => text >= "2000-01-01" && text <= "2100-12-31", "a day from 2000 to 2100");
