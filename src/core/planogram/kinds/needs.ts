import { shortKey } from "../../account/keys";
import type { AccountRecord } from "../../account/records";
import { assetsKey } from "../../account/records/assets";
import type { MatchType } from "../../channel/match-types";
import type { Keyword } from "../../account/records/keyword";
import type { ListingTarget } from "../../account/records/listing-target";
import { REACHES } from "../../account/records/reach";
import { variantKey, type Variant } from "../variants";
import type { Columns } from "../../kit/columns";
import { targetsOf } from "../../targets/aim-records";
import type { PlannedCampaign, PlannedGroup } from "../planned-campaigns";
import { ancestorAt, type Plan } from "../plan";
import type { Planogram } from "../planogram";
import { keywordsOf, type PatternKeywords } from "./keywords";
import { pagesOf } from "./pages";

/** A target by its text or pages. */
export type Aimed = Keyword | ListingTarget;

/** Whether a planogram's campaigns aim at terms or pages by name. */
export function aimsByName({ kind }: Planogram): boolean {
  return kind === "keyword" || kind === "text" || kind === "listing";
}

/** Some of what the campaigns of a plan aim at by name, spread over all its ad groups. @param most how many at most */
export function someAims(
  planogram: Planogram,
  plan: Plan,
  catalogue: Columns,
  campaigns: readonly PlannedCampaign[],
  most: number,
): Aimed[] {
  if (!aimsByName(planogram)) return [];
  const needs = new Needs(planogram, plan, catalogue);
  const groups = campaigns.flatMap(({ adGroups, variant }) => adGroups.map((group) => ({ group, variant })));
  const aims = spread(groups, most).flatMap(({ group, variant }) => needs.of(group, variant).filter(isAimed));
  return spread(aims, most);
}

function isAimed(record: AccountRecord): record is Aimed {
  return record.type === "keyword" || record.type === "listingTarget";
}

/** As many of a list as asked for, evenly from its beginning to its end. */
function spread<T>(list: T[], most: number): T[] {
  if (list.length <= most) return list;
  return Array.from({ length: most }, (_, i) => list[Math.floor((i * list.length) / most)]!);
}

/** What the ad groups of a plan need beside their items, by the kind of their campaigns: assets, reaches, or targets. */
export class Needs {
  private rowsOfGroup: Map<number, number[]> | null = null;
  private readonly texts = new Map<number, PatternKeywords>();

  constructor(
    private readonly planogram: Planogram,
    private readonly plan: Plan,
    private readonly catalogue: Columns,
  ) {}

  /** The records of one ad group. @param variant the match type or reach that its campaign is for; null for all */
  of(group: Pick<PlannedGroup, "key" | "node">, variant: Variant | null): AccountRecord[] {
    const { kind, assets, reach = [...REACHES], keywords, pages } = this.planogram;
    const adGroup = group.key;
    if (kind === "asset" && assets) return [{ ...assets, type: "assets", key: assetsKey(adGroup), adGroup }];
    if (kind === "discovery") {
      return reach
        .filter((one) => variant === null || one === variant)
        .map((one) => {
          const key = shortKey(`r:${adGroup.slice(2)}/${variantKey(this.planogram, one)}`);
          return { type: "reach", key, adGroup, kind: one, status: "on", bid: null };
        });
    }
    if ((kind === "keyword" || kind === "text") && keywords) {
      const matches = variant === null ? keywords.matches : [variant as MatchType];
      const { texts } = this.keywords(group.node, keywords);
      return targetsOf(
        texts.map((text) => ({ what: "keyword", text, matches })),
        adGroup,
        () => null,
      );
    }
    if (kind !== "listing" || !pages) return [];
    return targetsOf(pagesOf(pages, this.catalogue, this.rowsOf(group.node)), adGroup, () => null);
  }

  /** How many targets an ad group gets; see {@link of}. */
  count({ node }: Pick<PlannedGroup, "node">, variant: Variant | null): number {
    const { kind, keywords, pages } = this.planogram;
    if ((kind === "keyword" || kind === "text") && keywords) {
      return this.keywords(node, keywords).texts.length * (variant === null ? keywords.matches.length : 1);
    }
    return kind === "listing" && pages ? pagesOf(pages, this.catalogue, this.rowsOf(node)).length : 0;
  }

  /** What the patterns give an ad group, the same for every match type. */
  keywords(node: number, plan: NonNullable<Planogram["keywords"]>): PatternKeywords {
    let found = this.texts.get(node);
    if (!found) this.texts.set(node, (found = keywordsOf(this.plan, node, plan)));
    return found;
  }

  private rowsOf(node: number): number[] {
    if (!this.rowsOfGroup) {
      this.rowsOfGroup = new Map();
      const { plan, planogram } = this;
      for (let row = 0; row < plan.home.length; row++) {
        const home = plan.home[row]!;
        if (home < 0) continue;
        const at = ancestorAt(plan, home, planogram.adGroupLine);
        const list = this.rowsOfGroup.get(at);
        if (list) list.push(row);
        else this.rowsOfGroup.set(at, [row]);
      }
    }
    return this.rowsOfGroup.get(node) ?? [];
  }
}
