"use client";

import { useState } from "react";
import { AimAt } from "../aim-at";
import { AimDialog } from "../aim-dialog";
import { PasteLines } from "../paste-lines";

const WHAT = { told: "search terms, or terms and listings mixed", listing: "codes of listings" };
type What = keyof typeof WHAT;

/** Terms or listings typed or pasted, one a line, and then where and how to aim at them; leaving that goes back to the lines. */
export function NewTargets({ onClose }: { onClose: () => void }) {
  const [given, setGiven] = useState<{ kind: What; values: string[]; text: string } | null>(null);
  const [isBack, setBack] = useState(false);
  const back = () => setBack(true);
  if (given && !isBack) {
    const { kind, values } = given;
    return kind === "told" ? (
      <AimAt values={values} onClose={back} onDone={onClose} />
    ) : (
      <AimDialog start={{ what: "listing", values }} onClose={back} onDone={onClose} />
    );
  }
  return (
    <PasteLines
      title="Aim at terms or listings"
      next="Where and how"
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
