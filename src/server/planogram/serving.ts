import type { Columns } from "@/core/kit/columns";
import { isHomeKind, proveHomes, servingGroups, type HomesProof, type ServingGroup } from "@/core/planogram/homes";
import type { Structure } from "@/core/planogram/structure";
import type { Database } from "@/db/client";
import { structureColumns } from "./planograms";

interface Walked {
  revision: number;
  serving: ServingGroup[];
  /** Groups of campaigns that aim at terms or listings: they show their items beside the homes. */
  aimed: ServingGroup[];
  proof: HomesProof;
}

/** Kept as long as the structure object lives: the account and the account with the basket are the same objects while unchanged. */
const walked = new WeakMap<Structure, Walked>();

/** The groups that serve the catalogue in a structure, and the proof of homes and leaks; walked once a structure and revision. */
export async function walkStructure(db: Database, structure: Structure): Promise<Walked & { catalogue: Columns }> {
  const catalogue = await structureColumns(db, structure);
  const kept = walked.get(structure);
  if (kept?.revision === catalogue.revision) return { ...kept, catalogue };
  const all = servingGroups(structure, catalogue);
  const serving = all.filter(({ campaign }) => isHomeKind(campaign.kind));
  const aimed = all.filter(({ campaign }) => !isHomeKind(campaign.kind));
  const made = { revision: catalogue.revision, serving, aimed, proof: proveHomes(serving, catalogue.length) };
  walked.set(structure, made);
  return { ...made, catalogue };
}
