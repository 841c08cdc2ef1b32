import { THIN_DAYS } from "@/core/budgets/stock-cover";
import { clock } from "@/core/kit/clock";
import { formatMoney } from "@/core/kit/money";
import type { DeskLine } from "@/server/budgets/desk";
import type { CampaignMoney } from "@/server/budgets/pools";

export const percentOf = (share: number) => `${Math.round(100 * share)} %`;

/** A change too small to be worth a sentence, mills a day. */
const SMALL = 50;

/** What a campaign's money does, in sentences with their numbers: what the next unit brings, where it stops to pay, dry hours. */
export function moneyAdvice(campaign: CampaignMoney, line: DeskLine, currency: string): string[] {
  const money = (mills: number) => formatMoney(mills, currency);
  const { next, ceiling, spent, sales, full, evened } = line;
  const sentences: string[] = [];
  sentences.push(
    next.left === null
      ? `The next ${currency} a day brings ${next.sales.toFixed(2)} of sales; what that leaves is not known without costs.`
      : `The next ${currency} a day brings ${next.sales.toFixed(2)} of sales, ${next.left.toFixed(2)} after costs${
          line.shared > 0.05 ? " and without what it would only take from other campaigns" : ""
        }: ${next.left >= 1 ? "more than itself" : "less than itself"}.`,
  );
  if (ceiling !== null) {
    sentences.push(
      ceiling < LEAST_CEILING
        ? "By what it has brought, no spend of it pays for itself."
        : ceiling >= spent
          ? `It pays up to about ${money(ceiling)} a day.`
          : `It pays up to about ${money(ceiling)} a day; beyond that each ${currency} brings less than itself.`,
    );
  }
  if (campaign.dryDays > 0) {
    const more = full.cost - spent;
    sentences.push(
      `It ran dry on ${campaign.dryDays} of ${campaign.days} days${campaign.dryAt === null ? "" : `, at about ${clock(campaign.dryAt)}`}. Until midnight it would cost ${money(more)} more a day and bring ${money(Math.max(0, full.sales - sales))} more of sales.`,
    );
    if (evened > SMALL) {
      sentences.push(
        `With bids so much lower that the same ${money(spent)} lasts all day, about ${money(evened)} more of sales a day would be expected.`,
      );
    }
  } else if (campaign.status === "on" && full.cost < IDLE * campaign.dailyBudget) {
    sentences.push(
      `Money is not what limits it: full days cost ${money(full.cost)} of its ${money(campaign.dailyBudget)}. More of it would change nothing without higher bids.`,
    );
  }
  if ((line.thinStock ?? 0) > 0.2) {
    sentences.push(
      `${percentOf(line.thinStock!)} of its sales are of items whose stock lasts less than ${THIN_DAYS} days.`,
    );
  }
  return sentences;
}

/** A ceiling below this is none, mills a day. */
export const LEAST_CEILING = 100;
/** A campaign whose full days cost less than this share of its budget has money to spare. */
const IDLE = 0.8;
