"use client";

import { useState } from "react";
import { ItemActionDialog } from "../item-actions";
import { NegativeDialog } from "../negative-dialog";
import { PasteLines } from "../paste-lines";

const WHAT = {
  term: "search terms, or terms and listings mixed",
  listing: "codes of listings",
  placement: "addresses of placements",
  item: "IDs of items",
};

/** Values typed or pasted, one a line, and then where and why they are kept out. */
export function KeepOut({ onClose }: { onClose: () => void }) {
  const [chosen, setChosen] = useState<{ what: keyof typeof WHAT; values: string[] } | null>(null);
  if (!chosen) {
    return (
      <PasteLines
        title="Keep out"
        next="Where and why"
        kinds={WHAT}
        onNext={(what, values) => setChosen({ what, values })}
        onClose={onClose}
      />
    );
  }
  const { what, values } = chosen;
  if (what === "item") return <ItemActionDialog action="exclude" items={values} onClose={onClose} />;
  return <NegativeDialog level={what} values={values} within={null} onClose={onClose} onDone={onClose} />;
}
