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
type What = keyof typeof WHAT;

/** Values typed or pasted, one a line, and then where and why they are kept out; leaving that goes back to the lines. */
export function KeepOut({ onClose }: { onClose: () => void }) {
  const [given, setGiven] = useState<{ kind: What; values: string[]; text: string } | null>(null);
  const [isBack, setBack] = useState(false);
  const back = () => setBack(true);
  if (!given || isBack) {
    return (
      <PasteLines
        title="Keep out"
        next="Where and why"
        kinds={WHAT}
        first={given}
        onNext={(kind, values, text) => {
          setGiven({ kind, values, text });
          setBack(false);
        }}
        onClose={onClose}
      />
    );
  }
  const { kind, values } = given;
  if (kind === "item") return <ItemActionDialog action="exclude" items={values} onClose={back} onDone={onClose} />;
  return <NegativeDialog level={kind} values={values} within={null} onClose={back} onDone={onClose} />;
}
