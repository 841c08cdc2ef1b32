import type { ButtonHTMLAttributes } from "react";
import { cx } from "./cx";

const LOOKS = {
  /** The one thing to do next; one a view. */
  ember: "bg-ember text-on-ember hover:bg-ember-strong font-semibold border-transparent",
  plain: "bg-surface text-ink border-line hover:bg-raised",
  quiet: "bg-transparent text-petrol border-transparent hover:bg-raised",
} as const;

export interface ButtonProps extends ButtonHTMLAttributes<HTMLButtonElement> {
  look?: keyof typeof LOOKS;
}

/** A button; its text is a verb. */
export function Button({ look = "plain", className, type = "button", ...rest }: ButtonProps) {
  return (
    <button
      type={type}
      className={cx(
        "inline-flex h-8 items-center gap-1.5 rounded-md border px-3 text-sm whitespace-nowrap disabled:cursor-not-allowed disabled:opacity-50",
        LOOKS[look],
        className,
      )}
      {...rest}
    />
  );
}

/** Classes for a link that looks like a button. */
export function buttonClasses(look: keyof typeof LOOKS): string {
  return cx("inline-flex h-8 items-center gap-1.5 rounded-md border px-3 text-sm whitespace-nowrap", LOOKS[look]);
}
