"use client";

import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { AVAILABILITIES, type Availability } from "@/core/catalogue/availability";
import type { Mapping } from "@/core/catalogue/mapping";
import { formatCount, formatShare, plural } from "@/core/kit/format";
import { formatMoney, parseMoney } from "@/core/kit/money";
import type { Understood } from "@/server/catalogue/understood";
import type { ReadingChoice } from "@/server/catalogue/reading/open-feed";
import { Button } from "@/ui/button";
import { Select } from "@/ui/field";
import { ErrorNote } from "@/ui/notes";
import { useSettled } from "@/ui/use-settled";
import { apiSend, type ApiError } from "../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../_lib/workspace";

/** The items as they would come in, before anything is read: what was understood, what would be set aside, what looks wrong. */
export function UnderstoodPanel({
  upload,
  mapping,
  reading,
  onWords,
  onMark,
  onMeaning,
}: {
  upload: string;
  mapping: Mapping;
  reading: ReadingChoice;
  /** Adds words that say nothing beside amounts. */
  onWords: (words: string[]) => void;
  /** Says which mark parts cents. */
  onMark: (mark: "." | ",") => void;
  /** Says what a word for availability means. */
  onMeaning: (word: string, meaning: Availability) => void;
}) {
  const apiPath = useApiPath();
  const settled = useSettled(mapping);
  const { data, isFetching, error } = useQuery<Understood, ApiError>({
    queryKey: ["understood", upload, settled, reading],
    queryFn: () => apiSend<Understood>(apiPath(`uploads/${upload}/understood`), { mapping: settled, reading }),
    placeholderData: keepPreviousData,
    retry: false,
  });
  if (error) return <ErrorNote error={error.failure} />;
  if (!data) return <p className="mt-3 text-sm text-soft">{isFetching ? "Looking at the items …" : ""}</p>;
  if (data.rows === 0) return null;
  const asideRows = data.rows - data.usable;
  return (
    <section aria-label="As understood" className="mt-3 text-sm" aria-busy={isFetching}>
      <h3 className="font-semibold">
        As understood{" "}
        <span className="font-normal text-soft num">
          · {formatCount(data.usable)} of {data.isWhole ? "" : "the first "}
          {plural(data.rows, "row")} can be read
          {asideRows > 0 && <>, {formatCount(asideRows)} would be set aside</>}
        </span>
      </h3>
      {data.warnings.map((warning) => (
        <p key={warning} role="alert" className="mt-1 font-semibold text-ember">
          {warning}
        </p>
      ))}
      {data.aside.length > 0 && (
        <p className="mt-1 text-soft">
          Set aside: {data.aside.map(({ reason, rows }) => `${reason} (${formatCount(rows)})`).join(", ")}.
        </p>
      )}
      <Unread forms={data.unread} onWords={onWords} onMark={onMark} />
      <Words words={data.words} onMeaning={onMeaning} />
      <ItemTable items={data.items} />
    </section>
  );
}

/** Words for availability that nobody has explained: until somebody does, their items get no ads. */
function Words({
  words,
  onMeaning,
}: {
  words: Understood["words"];
  onMeaning: (word: string, meaning: Availability) => void;
}) {
  if (words.length === 0) return null;
  return (
    <div className="mt-1">
      <p className="font-semibold text-ember">
        What do these words for availability mean? Until that is said, their items get no ads.
      </p>
      <ul className="mt-1 flex max-h-24 flex-wrap gap-x-5 gap-y-1 overflow-y-auto" aria-label="Words for availability">
        {words.map(({ word, items }) => (
          <li key={word} className="flex items-center gap-2">
            “{word}” <span className="text-soft num">{plural(items, "item")}</span>
            <Select
              aria-label={`Meaning of ${word}`}
              className="w-36! py-0.5!"
              value=""
              onChange={(event) => onMeaning(word, event.target.value as Availability)}
            >
              <option value="">is not known</option>
              {AVAILABILITIES.map((meaning) => (
                <option key={meaning}>{meaning}</option>
              ))}
            </Select>
          </li>
        ))}
      </ul>
    </div>
  );
}

interface UnreadProps {
  forms: Understood["unread"];
  onWords: (words: string[]) => void;
  onMark: (mark: "." | ",") => void;
}

/** What an amount comes to by a decimal mark. */
function amountBy(example: string, mark: "." | ",", currency: string): string {
  const parsed = parseMoney(example, mark);
  return parsed.ok ? formatMoney(parsed.mills, currency) : "something else";
}

function Unread({ forms, onWords, onMark }: UnreadProps) {
  const { currency } = useWorkspace();
  if (forms.length === 0) return null;
  return (
    <ul className="mt-1 max-h-16 space-y-1 overflow-y-auto" aria-label="Amounts that can't be read">
      {forms.map(({ form, example, count, words, open }) => (
        <li key={form} className="flex items-center gap-2">
          <span>
            <span className="font-semibold text-ember">Not read:</span> “{example}”
            {count > 1 && <span className="text-soft"> and {formatCount(count - 1)} alike</span>}
          </span>
          {open !== null ? (
            ([open === "." ? "," : ".", open] as const).map((mark) => (
              <Button key={mark} look="quiet" onClick={() => onMark(mark)}>
                It is {amountBy(example, mark, currency)}
              </Button>
            ))
          ) : words.length > 0 ? (
            <Button look="quiet" onClick={() => onWords(words)}>
              Read as the amount, without “{words.join(" ")}”
            </Button>
          ) : (
            <span className="text-soft">no amount in it</span>
          )}
        </li>
      ))}
    </ul>
  );
}

function ItemTable({ items }: { items: Understood["items"] }) {
  const { currency } = useWorkspace();
  const money = (amount: number | null) => (amount === null ? "–" : formatMoney(amount, currency));
  const hasCost = items.some(({ cost }) => cost !== null);
  const hasSale = items.some(({ salePrice }) => salePrice !== null);
  return (
    <div
      className="mt-2 max-h-[17vh] overflow-auto rounded-md border border-line"
      tabIndex={0}
      role="region"
      aria-label="Items as understood"
    >
      <table className="w-full whitespace-nowrap">
        <thead className="sticky top-0 bg-surface text-left text-soft">
          <tr className="border-b border-line [&>th]:px-2 [&>th]:py-1 [&>th]:font-normal">
            <th>Item ID</th>
            <th>Title</th>
            <th className="text-right">Price</th>
            {hasSale && <th className="text-right">Sale price</th>}
            {hasCost && <th className="text-right">Cost</th>}
            {hasCost && <th className="text-right">Margin</th>}
            <th>Availability</th>
            <th>Family</th>
            <th>Category</th>
          </tr>
        </thead>
        <tbody>
          {items.map((item) => (
            <tr key={item.id} className="border-b border-line/60 [&>td]:px-2 [&>td]:py-0.5">
              <td>{item.id}</td>
              <td className="max-w-64 truncate" title={item.title}>
                {item.title}
              </td>
              <td className="text-right num">{money(item.price)}</td>
              {hasSale && <td className="text-right num">{money(item.salePrice)}</td>}
              {hasCost && <td className="text-right num">{money(item.cost)}</td>}
              {hasCost && (
                <td className={`text-right num ${item.margin !== null && item.margin <= 0 ? "text-ember" : ""}`}>
                  {item.margin === null ? "–" : formatShare(item.margin)}
                </td>
              )}
              <td>{item.availability}</td>
              <td className="max-w-32 truncate">{item.family || "–"}</td>
              <td className="max-w-48 truncate" title={item.category}>
                {item.category || "–"}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
