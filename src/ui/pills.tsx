import type { ReactNode } from "react";
import { formatCount } from "@/core/kit/format";
import { cx } from "./cx";

export interface Pill<K extends string> {
  key: K;
  label: string;
  count: number;
  /** What stands behind the count, such as money. */
  more?: ReactNode;
}

/** Kinds of lines beside each other, each with how many there are; the pressed one is what the list shows. */
export function Pills<K extends string>({
  label,
  pills,
  value,
  onChange,
}: {
  label: string;
  pills: Pill<K>[];
  value: K | null;
  /** Gets the pill that was pressed, also where it is the one that is shown. */
  onChange: (key: K) => void;
}) {
  return (
    <div role="group" aria-label={label} className="flex flex-wrap gap-1.5">
      {pills.map(({ key, label: words, count, more }) => (
        <button
          key={key}
          type="button"
          aria-pressed={value === key}
          onClick={() => onChange(key)}
          className={cx(
            "rounded-md border px-2.5 py-1 text-sm num",
            value === key ? "border-petrol bg-petrol-wash font-semibold" : "border-line bg-surface hover:bg-raised",
          )}
        >
          {words} <b>{formatCount(count)}</b> {more && <span className="text-soft">{more}</span>}
        </button>
      ))}
    </div>
  );
}
