import { asKept, byMoney, type Finding, type Found } from "../finding";
import type { Material } from "../material";
import { dryWinners } from "./dry";
import { undefended } from "./held";
import { movedFindings } from "./moved";
import { poorPages } from "./pages";
import {
  homeless,
  leaks,
  nameClashes,
  sameKeywords,
  sharedHomes,
  soldOut,
  soldOutSellers,
  tooSmall,
} from "./structure";
import { wasteFindings } from "./waste";
import { weakFindings } from "./weak";
import { belowGoal, concentration, trackingBroken } from "./whole";

/** All that look for faults. None changes anything in what it is given. */
const LOOKERS: ((material: Material) => Found[])[] = [
  ...[trackingBroken, belowGoal, concentration, weakFindings, wasteFindings, movedFindings, dryWinners],
  ...[
    leaks,
    homeless,
    soldOut,
    soldOutSellers,
    nameClashes,
    sameKeywords,
    sharedHomes,
    tooSmall,
    undefended,
    poorPages,
  ],
];

/** Everything that is wrong with an account, the most money first. */
export function findFaults(material: Material): Finding[] {
  return byMoney(LOOKERS.flatMap((look) => look(material)).map(asKept));
}
