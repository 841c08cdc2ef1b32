import type { Structure } from "../../account/account";
import { shortKey } from "../../account/keys";
import { planLabels, shelfColumn, TAKEN } from "../../account/records/labels";
import type { ProductGroup } from "../../account/records/product-group";
import type { Plan } from "../plan";
import type { Planogram } from "../planogram";
import { ancestorAt, keyValue, pathSegment } from "../planned-campaigns";

/**
 * The product-group trees of a planned feed campaign, with every remainder closed; below a label where the planogram has a filter. Values are named one by one even in a
 * pooled branch, so nothing is left open.
 */
export function addProductGroups(
  structure: Structure,
  planogram: Planogram,
  plan: Plan,
  adGroupKeys: Map<number, string>,
) {
  const { ladder, adGroupLine } = planogram;
  const put = (group: Omit<ProductGroup, "type">) => {
    structure[group.key] = { type: "productGroup", ...group };
  };
  const putSplit = (key: string, adGroup: string, parent: string | null, value: string | null, by: string) => {
    put({ key, adGroup, parent, role: "split", value, by, status: "on", bid: null });
    const remainder = `${key}/*`;
    put({
      key: remainder,
      adGroup,
      parent: key,
      role: "remainder",
      value: null,
      by: null,
      status: "closed",
      bid: null,
    });
  };
  const groupOf = new Int32Array(plan.parent.length).fill(-2);
  for (let row = 0; row < plan.home.length; row++) {
    const home = plan.home[row]!;
    if (home < 0) continue;
    if (groupOf[home] === -2) groupOf[home] = ancestorAt(plan, home, adGroupLine);
    const adGroup = adGroupKeys.get(groupOf[home]!) as string;
    let parent = shortKey(`p:${adGroup.slice(2)}|`);
    if (plan.wanted) {
      // The fields of the ladder can't tell the items of a filter from others, so a label does, above all else.
      const filter = shelfColumn(planLabels(planogram.key));
      if (!structure[parent]) putSplit(parent, adGroup, null, null, filter);
      const taken = shortKey(`${parent}/${pathSegment(filter, TAKEN)}`);
      if (!structure[taken]) putSplit(taken, adGroup, parent, TAKEN, ladder[0]!.by);
      parent = taken;
    } else if (!structure[parent]) putSplit(parent, adGroup, null, null, ladder[0]!.by);
    for (let depth = 0; depth < ladder.length; depth++) {
      const column = plan.columns[depth]!;
      const value = column.values[column.codes[row]!]!;
      const { by } = ladder[depth]!;
      const key = shortKey(`${parent}/${pathSegment(by, keyValue(planogram, by, value, column))}`);
      if (!structure[key]) {
        const below = ladder[depth + 1];
        if (below) putSplit(key, adGroup, parent, value, below.by);
        else put({ key, adGroup, parent, role: "unit", value, by: null, status: "on", bid: null });
      }
      parent = key;
    }
  }
}
