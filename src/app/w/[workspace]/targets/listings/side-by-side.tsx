import { formatCount } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import type { KnownListing } from "@/server/places/listings";
import { useWorkspace } from "../../../../_lib/workspace";

/** A listing and our nearest item beside each other, and in words who stands better. */
export function SideBySide({ listing }: { listing: KnownListing }) {
  const { currency } = useWorkspace();
  const { nearest } = listing;
  if (!nearest) return null;
  const money = (mills: number | null) => (mills === null ? "–" : formatMoney(mills, currency));
  const lines = [
    {
      name: "Price",
      theirs: money(listing.price),
      ours: money(nearest.price),
      gap: gapOf(listing.price, nearest.price, -1),
    },
    {
      ...{ name: "Rating", theirs: listing.rating?.toFixed(1) ?? "–", ours: nearest.rating?.toFixed(1) ?? "–" },
      gap: gapOf(listing.rating, nearest.rating, 1),
    },
    {
      ...{ name: "Reviews", theirs: formatCount(listing.reviews ?? 0), ours: formatCount(nearest.reviews ?? 0) },
      gap: gapOf(listing.reviews, nearest.reviews, 1),
    },
  ];
  const better = lines.filter(({ gap }) => gap > 0).map(({ name }) => name.toLowerCase());
  const worse = lines.filter(({ gap }) => gap < 0).map(({ name }) => name.toLowerCase());
  return (
    <div className="flex items-center gap-6 rounded-lg border border-line bg-surface px-4 py-2 text-sm">
      <table className="num">
        <thead>
          <tr className="text-left text-xs text-soft">
            <td />
            {lines.map(({ name }) => (
              <th key={name} scope="col" className="px-3 text-right font-normal">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          <tr>
            <th scope="row" className="max-w-64 truncate pr-3 text-left font-normal">
              {listing.title}
            </th>
            {lines.map(({ name, theirs, gap }) => (
              <td key={name} className={`px-3 text-right ${gap < 0 ? "font-semibold" : ""}`}>
                {theirs}
              </td>
            ))}
          </tr>
          <tr>
            <th scope="row" className="max-w-64 truncate pr-3 text-left font-semibold">
              {nearest.title}
            </th>
            {lines.map(({ name, ours, gap }) => (
              <td key={name} className={`px-3 text-right ${gap > 0 ? "font-semibold text-petrol" : ""}`}>
                {ours}
              </td>
            ))}
          </tr>
        </tbody>
      </table>
      <p className="max-w-md">
        {better.length === 0
          ? "Ours stands worse or alike in all three; a click there will hardly buy."
          : `Ours stands better in ${better.join(" and ")}${worse.length > 0 ? `, worse in ${worse.join(" and ")}` : ""}.`}
      </p>
    </div>
  );
}

/** Above 0 where ours is better; `sign` says whether more is better. */
function gapOf(theirs: number | null, ours: number | null, sign: 1 | -1): number {
  return theirs === null || ours === null ? 0 : Math.sign(ours - theirs) * sign;
}
