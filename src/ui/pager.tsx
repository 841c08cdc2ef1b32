import { formatCount } from "@/core/kit/format";
import { Button } from "./button";

interface PagerProps {
  /** The first line shown, from 0 on. */
  offset: number;
  /** Lines on a page, and in all. */
  size: number;
  total: number;
  onChange: (offset: number) => void;
}

/** Ways through a log, newest first; nothing where all of it fits on a page. */
export function Pager({ offset, size, total, onChange }: PagerProps) {
  if (total <= size) return null;
  return (
    <div className="flex items-center gap-2 text-sm num">
      <Button disabled={offset === 0} onClick={() => onChange(Math.max(0, offset - size))}>
        Newer
      </Button>
      <Button disabled={offset + size >= total} onClick={() => onChange(offset + size)}>
        Older
      </Button>
      {formatCount(offset + 1)} to {formatCount(Math.min(total, offset + size))} of {formatCount(total)}
    </div>
  );
}
