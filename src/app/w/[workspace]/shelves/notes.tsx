import { plural } from "@/core/kit/format";
import { METRICS, type Sums } from "@/core/kit/metrics";
import type { ShelfSetPage } from "@/server/shelves/blocks";
import { Button } from "@/ui/button";

/** What a set can't tell apart, fields it misses, shelves that are due for a look, and how much of a raw return was luck. */
export function ShelfNotes({ page }: { page: ShelfSetPage }) {
  const today = new Date().toISOString().slice(0, 10);
  const due = page.shelves.filter(({ lookAgain }) => lookAgain !== null && lookAgain <= today);
  return (
    <>
      {page.missing.length > 0 && (
        <p className="rounded-md border border-ember/40 px-3 py-2">
          <b>A rule asks for what is not there any more:</b> {page.missing.join(", ")}. Its shelf holds nothing until
          that comes back or the rule is changed.
        </p>
      )}
      {page.warnings.map((warning) => (
        <p key={warning} className="rounded-md bg-petrol-wash px-3 py-2">
          {warning}
        </p>
      ))}
      {due.map(({ key, name, note, lookAgain }) => (
        <p key={key} className="rounded-md bg-petrol-wash px-3 py-2">
          <b>Look again at “{name}”</b> (due {lookAgain}){note && `: ${note}`}
        </p>
      ))}
      <WentOnNote page={page} />
    </>
  );
}

/** Moves that wait since more items would move than the set lets pass. */
export function HeldNote({ page: { held }, onAccept }: { page: ShelfSetPage; onAccept: () => void }) {
  if (!held) return null;
  return (
    <div className="flex flex-wrap items-center gap-3 rounded-md border border-ember/50 px-3 py-2">
      <p className="flex-1">
        <b>{plural(held.moved, "item")} would move</b>, of {plural(held.items, "item")}: more than this set lets pass.
        Every item stays where it was. Look at why, then let them move or change the cuts.
      </p>
      <Button onClick={onAccept}>Let them move</Button>
    </div>
  );
}

function WentOnNote({ page: { wentOn, shelves } }: { page: ShelfSetPage }) {
  if (!wentOn) return null;
  const outer = [0, shelves.length - 2].flatMap((at) => {
    const [name, { before, after }] = [shelves[at]!.name, wentOn.shelves[at]!];
    const [was, is] = [before, after].map((sums: Sums) => METRICS.roas.of(sums));
    return was == null || is == null ? [] : [`“${name}” had ${was.toFixed(1)} and went on to ${is.toFixed(1)}`];
  });
  if (outer.length === 0) return null;
  return (
    <p className="rounded-md bg-petrol-wash px-3 py-2">
      <b>Part of a raw return is luck.</b> Sorted by {plural(wentOn.days, "day")} and looked at over the days after:{" "}
      {outer.join("; ")}. “Return by chance” allows for that.
    </p>
  );
}
