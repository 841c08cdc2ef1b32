import { useState } from "react";
import { blankSet, READY_MADE } from "@/core/shelves/ready-made";
import type { ShelfSet } from "@/core/shelves/shelf-set";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { Dialog } from "@/ui/dialog";
import { useWorkspace } from "../../../_lib/workspace";

/** Sets to start from, each with when it helps, when it hurts and what it costs; nothing is kept before one says so. */
export function NewSetDialog({
  open,
  taken,
  onClose,
  onChoose,
}: {
  open: boolean;
  taken: ShelfSet[];
  onClose: () => void;
  onChoose: (set: ShelfSet) => void;
}) {
  const { goal } = useWorkspace();
  const [key, setKey] = useState(READY_MADE[2]!.key);
  const chosen = READY_MADE.find((one) => one.key === key)!;
  const free = (set: ShelfSet): ShelfSet => {
    const isTaken = (name: string, no: string) =>
      taken.some((other) => other.key === no || other.name.toLowerCase() === name.toLowerCase());
    for (let no = 1; ; no++) {
      const [newKey, name] = no === 1 ? [set.key, set.name] : [`${set.key}-${no}`, `${set.name} ${no}`];
      if (!isTaken(name, newKey)) return { ...set, key: newKey, name };
    }
  };
  return (
    <Dialog open={open} onClose={onClose} title="New shelf set" wide>
      <div className="grid grid-cols-[260px_1fr] gap-5">
        <ul className="space-y-0.5" aria-label="Ready-made sets">
          {READY_MADE.map((one) => (
            <li key={one.key}>
              <button
                type="button"
                aria-pressed={one.key === key}
                onClick={() => setKey(one.key)}
                className={cx(
                  "w-full rounded-md px-2 py-1 text-left text-sm",
                  one.key === key ? "bg-petrol-wash font-semibold text-petrol" : "hover:bg-raised",
                )}
              >
                {one.name}
                {taken.some((set) => set.key === one.key) && (
                  <span className="font-normal text-soft"> · there already</span>
                )}
              </button>
            </li>
          ))}
        </ul>
        <div className="flex flex-col gap-3">
          <h3 className="text-lg font-semibold">{chosen.name}</h3>
          <p>{chosen.about}</p>
          <dl className="grid grid-cols-[70px_1fr] gap-y-2 text-sm">
            <dt className="text-soft">Helps</dt>
            <dd>{chosen.helps}</dd>
            <dt className="text-soft">Hurts</dt>
            <dd>{chosen.hurts}</dd>
            <dt className="text-soft">Learning</dt>
            <dd>{chosen.learning}</dd>
            <dt className="text-soft">Shelves</dt>
            <dd>{[...chosen.make(goal).shelves, chosen.make(goal).rest].map(({ name }) => name).join(" · ")}</dd>
          </dl>
          <p className="text-sm text-soft">
            Its numbers are a start: you see what they do and change them before it is kept.
          </p>
          <div className="mt-auto flex justify-end gap-2">
            <Button onClick={() => onChoose(free(blankSet("my-shelves", "My shelves", goal)))}>
              Begin with an empty set
            </Button>
            <Button look="ember" onClick={() => onChoose(free(chosen.make(goal)))}>
              Look at it
            </Button>
          </div>
        </div>
      </div>
    </Dialog>
  );
}
