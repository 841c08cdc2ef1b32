"use client";

import { useState } from "react";
import { formatCount, plural } from "@/core/kit/format";
import type { MatchedAddresses } from "@/server/exclusions/placements/match";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Checkbox } from "@/ui/field";
import { apiSend, toastError } from "../../../../_lib/api";
import { useApiPath } from "../../../../_lib/workspace";
import { NegativeDialog } from "../../negative-dialog";
import { PasteLines } from "../../paste-lines";

/** Lines named one by one. */
const MOST_NAMED = 8;

/** A list of addresses taken in: what each line is, and then where and why they are kept out. */
export function PastedPlacements({ onClose }: { onClose: () => void }) {
  const apiPath = useApiPath();
  const [found, setFound] = useState<MatchedAddresses | null>(null);
  const [withUnknown, setWithUnknown] = useState(true);
  const [chosen, setChosen] = useState<string[] | null>(null);
  const match = async (lines: string[]) => {
    try {
      setFound(await apiSend<MatchedAddresses>(apiPath("placements/match"), { lines }));
    } catch (error) {
      toastError(error);
    }
  };
  if (chosen)
    return (
      <NegativeDialog
        level="placement"
        values={chosen}
        within={null}
        onClose={() => setChosen(null)}
        onDone={onClose}
      />
    );
  if (!found)
    return (
      <PasteLines
        title="Keep a list of placements out"
        next="Look at them"
        kinds={{ placement: "addresses of sites, apps and channels" }}
        onNext={(_, lines) => void match(lines)}
        onClose={onClose}
      />
    );
  const { known, unknown, junk, twice } = found;
  const values = [...known.map(({ address }) => address), ...(withUnknown ? unknown : [])];
  return (
    <Dialog open onClose={onClose} title="What was pasted">
      <div className="space-y-3 text-sm num">
        <p>
          <b>{plural(known.length, "placement")}</b> where ads of yours were shown
          {known.length > 0 &&
            `, ${formatCount(known.reduce((sum, { impressions }) => sum + impressions, 0))} impressions in all`}
          .
          {twice > 0 &&
            ` ${plural(twice, "line")} ${twice === 1 ? "says" : "say"} again what another says and ${twice === 1 ? "counts" : "count"} once.`}
        </p>
        {unknown.length > 0 && (
          <>
            <p>
              <b>{plural(unknown.length, "address", "addresses")}</b> where none was shown: <Named lines={unknown} />
            </p>
            <Checkbox
              label="Keep these out too"
              checked={withUnknown}
              onChange={(event) => setWithUnknown(event.target.checked)}
            />
          </>
        )}
        {junk.length > 0 && (
          <p className="font-semibold text-ember-strong">
            ▾ {plural(junk.length, "line")} {junk.length === 1 ? "is" : "are"} no address and stay
            {junk.length === 1 ? "s" : ""} out of this: <Named lines={junk} />
          </p>
        )}
        <div className="flex justify-end gap-2">
          <Button onClick={() => setFound(null)}>Paste again</Button>
          <Button look="ember" disabled={values.length === 0} onClick={() => setChosen(values)}>
            Where and why
          </Button>
        </div>
      </div>
    </Dialog>
  );
}

function Named({ lines }: { lines: string[] }) {
  return (
    <span className="font-normal break-all">
      {lines.slice(0, MOST_NAMED).join(", ")}
      {lines.length > MOST_NAMED && ` and ${formatCount(lines.length - MOST_NAMED)} more`}
    </span>
  );
}
