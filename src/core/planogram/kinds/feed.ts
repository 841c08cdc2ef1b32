import type { AccountRecord } from "../../account/records";
import { shortKey } from "../../account/keys";
import { planLabels, shelfColumn, TAKEN } from "../../account/records/labels";
import type { ProductGroup } from "../../account/records/product-group";
import { ancestorAt, type Plan } from "../plan";
import type { Planogram } from "../planogram";
import { keyValue, pathSegment } from "../planned-campaigns";
import { Ways, type Step } from "../ways";

/**
 * The product-group trees of a planned campaign, with every remainder closed; below a label where the planogram has a
 * filter. Values are named one by one even in a pooled branch, so nothing is left open.
 * @param adGroupKeys keys of the ad groups by node; those that are not named get no tree
 */
export function addProductGroups(
  records: Map<string, AccountRecord>,
  planogram: Planogram,
  plan: Plan,
  adGroupKeys: Map<number, string>,
) {
  const { ladder, adGroupLine } = planogram;
  const put = (group: Omit<ProductGroup, "type">) => records.set(group.key, { type: "productGroup", ...group });
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
  /** The node that the ladder's first split stands at. */
  const putRoot = (adGroup: string): string => {
    const root = shortKey(`p:${adGroup.slice(2)}|`);
    const first = ladder[0]!.by;
    if (!plan.wanted) {
      putSplit(root, adGroup, null, null, first);
      return root;
    }
    // The fields of the ladder can't tell the items of a filter from others, so a label does, above all else.
    const filter = shelfColumn(planLabels(planogram.key));
    putSplit(root, adGroup, null, null, filter);
    const taken = shortKey(`${root}/${pathSegment(filter, TAKEN)}`);
    putSplit(taken, adGroup, root, TAKEN, first);
    return taken;
  };
  const putStep = (parent: string, adGroup: string, { depth, isOther, code }: Step): string => {
    const column = isOther ? plan.otherColumns[depth]! : plan.columns[depth]!;
    const value = column.values[code]!;
    const { by, othersBy = "" } = ladder[depth]!;
    const field = isOther ? othersBy : by;
    const key = shortKey(`${parent}/${pathSegment(field, keyValue(planogram, field, value, column))}`);
    const isDivided = !isOther && plan.otherColumns[depth] && plan.pooled[depth]?.has(code);
    const below = isDivided ? othersBy : ladder[depth + 1]?.by;
    if (below !== undefined) putSplit(key, adGroup, parent, value, below);
    else put({ key, adGroup, parent, role: "unit", value, by: null, status: "on", bid: null });
    return key;
  };
  const adGroupOf = plan.parent.map((_, node) => ancestorAt(plan, node, adGroupLine));
  // Nodes by number, so that a key is put together once a node and not once an item.
  const keys: string[] = [];
  const ways = new Ways(plan);
  const roots = new Map<number, number>();
  for (let row = 0; row < plan.home.length; row++) {
    const home = plan.home[row]!;
    if (home < 0) continue;
    const group = adGroupOf[home]!;
    const adGroup = adGroupKeys.get(group);
    if (adGroup === undefined) continue;
    let root = roots.get(group);
    if (root === undefined) {
      roots.set(group, (root = ways.root()));
      keys[root] = putRoot(adGroup);
    }
    ways.add(row, root, (step) => {
      keys[step.to] = putStep(keys[step.from]!, adGroup, step);
    });
  }
}
