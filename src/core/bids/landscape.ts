import { normalCdf, normalQuantile } from "../kit/stats";

/**
 * How clicks and what they cost hang on the bid (`docs/formulas.md` 6): the best of the others' bids is log-normal, a bid
 * wins where it is above, and pays what it had to beat.
 */
export interface Landscape {
  /** Logarithm of the middle of what has to be beaten, mills, and its spread. */
  middle: number;
  spread: number;
}

/** Where no rate card tells how far apart auctions lie: those of low and high cards lie about twice this apart. */
const USUAL_SPREAD = 0.6;
/** A rate card's low wins a fifth of auctions, its high four fifths. */
const CARD_QUANTILE = normalQuantile(0.8);

/** The landscape that a rate card tells: its low, typical and high win a fifth, half and four fifths of auctions. */
export function landscapeOfCard(card: { low: number | null; typical: number; high: number | null }): Landscape {
  const { low, typical, high } = card;
  const apart = low && high && high > low ? Math.log(high / low) / (2 * CARD_QUANTILE) : USUAL_SPREAD;
  return { middle: Math.log(typical), spread: Math.max(0.1, apart) };
}

/**
 * A bid that pays nearly all of itself would be one that hardly ever wins; but a channel's least price does that as well. So it
 * is taken to win at least every tenth auction, and no more than nearly all.
 */
const FAR = normalQuantile(0.9);
const NEAR = -3;

/** The landscape under which a bid pays what its clicks were seen to cost, as far as that can be; found by halving. */
export function landscapeOfClicks(bid: number, cpc: number, spread = USUAL_SPREAD): Landscape {
  const wanted = cpc / bid;
  let [low, high] = [NEAR * spread, FAR * spread];
  for (let i = 0; i < 40; i++) {
    const at = (low + high) / 2;
    if (paidShare(at, spread) > wanted) high = at;
    else low = at;
  }
  return { middle: Math.log(bid) + low, spread };
}

/** What a bid pays over itself where the middle lies so far above it, on the logarithmic scale. */
function paidShare(above: number, spread: number): number {
  const won = normalCdf(-above / spread);
  if (won < 1e-9) return 1;
  return Math.min(1, (Math.exp(above + (spread * spread) / 2) * normalCdf(-above / spread - spread)) / won);
}

/** Share of auctions that a bid wins. */
export function wonAt({ middle, spread }: Landscape, bid: number): number {
  return bid > 0 ? normalCdf((Math.log(bid) - middle) / spread) : 0;
}

/** What a click costs at a bid, mills. */
export function costAt({ middle, spread }: Landscape, bid: number): number {
  return bid > 0 ? bid * paidShare(middle - Math.log(bid), spread) : 0;
}

/** Clicks and what one costs at another bid, anchored at what was seen at the present one. */
export function atBid(
  landscape: Landscape,
  seen: { bid: number; clicks: number; cpc: number },
  bid: number,
): { clicks: number; cpc: number } {
  const [won, present] = [wonAt(landscape, bid), wonAt(landscape, seen.bid)];
  const [cost, before] = [costAt(landscape, bid), costAt(landscape, seen.bid)];
  return {
    clicks: present > 1e-6 ? (seen.clicks * won) / present : 0,
    cpc: Math.min(bid, before > 0 ? (seen.cpc * cost) / before : cost),
  };
}
