"use client";

import { useState } from "react";
import { AimDialog, type AimStart } from "../aim-dialog";
import { PasteLines } from "../paste-lines";

const WHAT = { keyword: "search terms", listing: "codes of listings" };

/** Terms or listings typed or pasted, one a line, and then where and how to aim at them. */
export function NewTargets({ onClose }: { onClose: () => void }) {
  const [start, setStart] = useState<AimStart | null>(null);
  if (start) return <AimDialog start={start} onClose={onClose} />;
  return (
    <PasteLines
      title="Aim at terms or listings"
      next="Where and how"
      kinds={WHAT}
      onNext={(what, values) => setStart({ what, values })}
      onClose={onClose}
    />
  );
}
