"use client";

const KEYS: [key: string, what: string][] = [
  ["/", "Go to the filter"],
  ["j, k", "Next and previous row"],
  ["x", "Select the row"],
  ["a", "Select all rows found, or none"],
  ["Enter", "Open the row"],
  ["← →", "Close and open a line of the structure"],
  ["b", "Set a bid for the selection"],
  ["e", "Exclude the selection"],
  ["s", "Show the selected item's shelf"],
  ["c", "Copy the selected rows for a spreadsheet"],
  ["v", "Paste IDs, bids, costs or notes from a spreadsheet"],
  ["Esc", "Close, or leave the field"],
  ["Ctrl K", "Search and commands"],
  ["Ctrl Z", "Take back your last edit, also after its message is gone"],
  ["u", "Take back the last change of a copy plan"],
  ["?", "The guide, with these keys"],
];

/** What each key does. */
export function Keys() {
  return (
    <dl className="grid grid-cols-[70px_1fr] gap-y-1.5">
      {KEYS.map(([key, what]) => (
        <div key={key} className="contents">
          <dt>
            <kbd className="rounded border border-line bg-paper px-1.5 py-0.5 text-xs">{key}</kbd>
          </dt>
          <dd>{what}</dd>
        </div>
      ))}
    </dl>
  );
}
