import type { ReactNode } from "react";
import { Button } from "@/ui/button";

/** What can be done with picked lines: how many they are, what they sum to, and the acts that fit them. */
export function PickBar({
  label,
  sums,
  children,
  onCopy,
  onClear,
}: {
  /** For example "3 lines picked". */
  label: string;
  sums?: ReactNode;
  children?: ReactNode;
  onCopy: () => void;
  onClear: () => void;
}) {
  return (
    <div
      className="flex flex-wrap items-center gap-2 rounded-md bg-petrol-wash px-3 py-1.5 text-sm"
      role="group"
      aria-label="Picked lines"
    >
      <b className="num">{label}</b>
      {sums && <span className="num text-soft">{sums}</span>}
      {children}
      <Button onClick={onCopy}>Copy</Button>
      <Button look="quiet" onClick={onClear}>
        Clear
      </Button>
    </div>
  );
}
