import { Menu, MenuButton, MenuItem, MenuItems } from "@headlessui/react";
import { ChevronDown } from "lucide-react";
import type { ReactNode } from "react";
import { Button, buttonClasses } from "@/ui/button";

/** Something that can be done with picked lines. */
export interface PickAct {
  label: string;
  onClick: () => void;
}

/** Acts that stand as buttons of their own; the rest opens behind one more. */
const MOST_BUTTONS = 4;

/** What can be done, in one row whatever their number: the first few as buttons, the rest in a menu. */
export function ActButtons({ acts }: { acts: PickAct[] }) {
  const shown = acts.length <= MOST_BUTTONS + 1 ? acts : acts.slice(0, MOST_BUTTONS);
  const rest = acts.slice(shown.length);
  return (
    <>
      {shown.map(({ label, onClick }) => (
        <Button key={label} onClick={onClick}>
          {label}
        </Button>
      ))}
      {rest.length > 0 && (
        <Menu>
          <MenuButton className={buttonClasses("plain")}>
            More <ChevronDown aria-hidden className="size-3.5" />
          </MenuButton>
          <MenuItems
            anchor="bottom start"
            className="z-50 mt-1 w-48 rounded-md border border-line bg-surface p-1 text-sm text-ink shadow-xl outline-none"
          >
            {rest.map(({ label, onClick }) => (
              <MenuItem key={label}>
                <button
                  type="button"
                  className="block w-full rounded px-3 py-1.5 text-left data-focus:bg-raised"
                  onClick={onClick}
                >
                  {label}
                </button>
              </MenuItem>
            ))}
          </MenuItems>
        </Menu>
      )}
    </>
  );
}

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
