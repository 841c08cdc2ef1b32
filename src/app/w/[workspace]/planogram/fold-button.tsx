import { ChevronsDownUp, ChevronsUpDown } from "lucide-react";
import { Button } from "@/ui/button";
import type { Unfolded } from "@/ui/use-unfolded";

/** Unfolds all campaigns of a tree, or folds what is unfolded. */
export function FoldButton({ unfolded: { open, turnAll }, campaigns }: { unfolded: Unfolded; campaigns: string[] }) {
  const isOpen = open.size > 0;
  const Icon = isOpen ? ChevronsDownUp : ChevronsUpDown;
  return (
    <Button look="quiet" onClick={() => turnAll(campaigns)}>
      <Icon aria-hidden className="size-3.5" /> {isOpen ? "Fold all" : "Unfold all"}
    </Button>
  );
}
