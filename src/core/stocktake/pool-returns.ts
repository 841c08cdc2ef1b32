import { linesEvidence } from "../evidence/lines";
import type { Told } from "../results/told";
import type { Material, StockLine } from "./material";

/**
 * Gives lines what is believed of their returns, each pooled towards the whole (`docs/formulas.md` 2).
 * @param told what each tells, in the same order
 */
export function poolReturns(
  lines: readonly StockLine[],
  told: readonly Told[],
  { goal }: Pick<Material, "goal">,
): StockLine[] {
  const evidence = linesEvidence([...told], goal);
  return lines.map((line, at) => {
    const found = evidence.of(told[at]!);
    if (!found) return line;
    const { low, mean, high, chance } = found;
    return { ...line, chance, sure: { low, mean, high } };
  });
}
