/** Characters at the end that stay in sight. */
const TAIL = 14;
/** A text up to this long is left as it is. */
const SHORT = 26;

/** Where the end of a text begins that stays in sight: at a word where there is one near. */
export function tailStart(text: string): number {
  if (text.length <= SHORT) return text.length;
  const from = text.length - TAIL;
  const word = text.indexOf(" ", from - 4);
  return word >= 0 && word < text.length - 3 ? word : from;
}

/** A text on one line that is cut in the middle, since titles of variants differ at their end: size, color. */
export function MiddleCut({ text, className = "" }: { text: string; className?: string }) {
  const at = tailStart(text);
  return (
    <span className={`flex min-w-0 ${className}`} title={text}>
      <span className="truncate whitespace-pre">{text.slice(0, at)}</span>
      {at < text.length && <span className="shrink-0 whitespace-pre">{text.slice(at)}</span>}
    </span>
  );
}
