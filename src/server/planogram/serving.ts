import type { Columns } from "@/core/kit/columns";
import { proveHomes, servingGroups, type HomesProof, type ServingGroup } from "@/core/planogram/homes";
import type { Structure } from "@/core/planogram/structure";
import type { Database } from "@/db/client";
import { structureColumns } from "./planograms";

interface Walked {
  revision: number;
  serving: ServingGroup[];
  proof: HomesProof;
}

/** Kept as long as the structure object lives: the account and the account with the basket are the same objects while unchanged. */
const walked = new WeakMap<Structure, Walked>();

/** The groups that serve the catalogue in a structure, and the proof of homes and leaks; walked once a structure and revision. */
export async function walkStructure(db: Database, structure: Structure): Promise<Walked & { catalogue: Columns }> {
  const catalogue = await structureColumns(db, structure);
  const kept = walked.get(structure);
  if (kept?.revision === catalogue.revision) return { ...kept, catalogue };
  const serving = servingGroups(structure, catalogue);
  const made = { revision: catalogue.revision, serving, proof: proveHomes(serving, catalogue.length) };
  walked.set(structure, made);
  return { ...made, catalogue };
}
