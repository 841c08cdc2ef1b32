"use client";

import { ArrowDown, ArrowUp, TriangleAlert, X } from "lucide-react";
import type { DerivedField, DerivedRule } from "@/core/catalogue/derive/derived-field";
import type { DerivedExample } from "@/core/catalogue/derive/preview";
import { conditionsIn } from "@/core/catalogue/where";
import { formatCount, plural } from "@/core/kit/format";
import type { DerivedPreviewView } from "@/server/catalogue/derived-preview";
import { cx } from "@/ui/cx";
import { ItemTag } from "@/ui/item-tag";
import { WhereBuilder, type FieldChoice } from "../where-builder";
import { OutputBuilder } from "./output-builder";

/** One rule: when it holds, what it gives, and what it does to real items. */
export function RuleCard({
  no,
  field,
  fields,
  lists,
  preview,
  onChange,
  onMove,
}: {
  no: number;
  field: DerivedField;
  fields: FieldChoice[];
  lists: { key: string; name: string }[];
  preview: DerivedPreviewView | undefined;
  onChange: (rule: DerivedRule | null) => void;
  onMove: (by: -1 | 1) => void;
}) {
  const rule = field.rules[no]!;
  const figures = preview?.rules[no];
  const isLast = no === field.rules.length - 1;
  const takesLetters = conditionsIn(rule.when).some(({ op }) => op === "contains" || op === "lacks");
  return (
    <section className="rounded-lg border border-line bg-surface" aria-label={`Rule ${no + 1}`}>
      <header className="flex items-center gap-2 border-b border-line px-3 py-1.5">
        <h2 className="font-semibold">Rule {no + 1}</h2>
        <span className="flex-1 text-sm text-soft num">
          {figures &&
            (figures.gives === figures.holds
              ? `gives the value of ${plural(figures.gives, "item")}`
              : `holds for ${formatCount(figures.holds)}, gives the value of ${plural(figures.gives, "item")}`)}
        </span>
        <IconButton label={`Move rule ${no + 1} up`} disabled={no === 0} onClick={() => onMove(-1)}>
          <ArrowUp aria-hidden className="size-4" />
        </IconButton>
        <IconButton label={`Move rule ${no + 1} down`} disabled={isLast} onClick={() => onMove(1)}>
          <ArrowDown aria-hidden className="size-4" />
        </IconButton>
        <IconButton label={`Remove rule ${no + 1}`} onClick={() => onChange(null)}>
          <X aria-hidden className="size-4" />
        </IconButton>
      </header>
      <div className="space-y-3 p-3">
        <fieldset>
          <legend className="mb-1 text-sm font-medium">When</legend>
          {rule.when.of.length === 0 && (
            <p className="text-sm text-soft">
              {isLast && no > 0 ? "always, for all that no rule above has caught" : "always"}
            </p>
          )}
          <WhereBuilder where={rule.when} fields={fields} onChange={(when) => onChange({ ...rule, when })} />
        </fieldset>
        {rule.then.map((output, form) => (
          <OutputBuilder
            key={form}
            label={
              rule.then.length > 1 ? `${form === 0 ? field.name || "First form" : field.secondName} is` : "The value is"
            }
            output={output}
            fields={fields}
            lists={lists}
            onChange={(next) => onChange({ ...rule, then: rule.then.map((old, i) => (i === form ? next : old)) })}
          />
        ))}
        {figures?.insideOthers.map(({ word, others, count }) => (
          <p key={word} className="flex gap-1.5 text-sm">
            <TriangleAlert aria-hidden className="mt-0.5 size-4 shrink-0 text-ember" />
            <span>
              “{word}” also stands inside other words, {plural(count, "time")}:{" "}
              {others.map((other) => `${other.word} (${formatCount(other.count)})`).join(", ")}.{" "}
              {takesLetters
                ? "This rule goes by letters, so those count too."
                : "This rule takes whole words, so those are left alone."}
            </span>
          </p>
        ))}
        {preview && figures && figures.examples.length > 0 && (
          <Examples examples={figures.examples.slice(0, 3)} preview={preview} />
        )}
        {preview && figures && figures.nearMisses.length > 0 && (
          <details className="text-sm">
            <summary className="cursor-pointer text-petrol">
              {plural(figures.nearMisses.length, "near miss", "near misses")}
            </summary>
            <ul className="mt-1 space-y-1">
              {figures.nearMisses.map(({ row, why }) => (
                <li key={row} className="grid grid-cols-[1fr_1fr] gap-3">
                  <span className="truncate">{preview.items[row]?.title}</span>
                  <span className="text-soft">{why}</span>
                </li>
              ))}
            </ul>
          </details>
        )}
      </div>
    </section>
  );
}

function IconButton({
  label,
  disabled = false,
  onClick,
  children,
}: {
  label: string;
  disabled?: boolean;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      disabled={disabled}
      className="rounded p-1 text-soft enabled:hover:bg-raised disabled:opacity-40"
      onClick={onClick}
    >
      {children}
    </button>
  );
}

/** Items before and after: what the field reads, what it becomes, and which rule did it. */
export function Examples({
  examples,
  preview,
  withRule = false,
}: {
  examples: DerivedExample[];
  preview: DerivedPreviewView;
  withRule?: boolean;
}) {
  return (
    <table className="w-full table-fixed text-sm">
      <thead className="sr-only">
        <tr>
          <th>Item</th>
          <th>Before</th>
          <th>After</th>
        </tr>
      </thead>
      <tbody>
        {examples.map((example) => {
          const item = preview.items[example.row];
          const rest = example.before.filter(({ field }) => field !== "title" && field !== "id");
          return (
            <tr key={example.row} className="border-t border-line/70 align-top">
              <td className="w-1/2 py-1 pr-3">
                {item && <ItemTag id={item.id} title={item.title} image={item.image} />}
              </td>
              <td className="py-1 pr-3 text-soft">
                {rest.map(({ field, value }) => (
                  <span key={field} className="block truncate" title={`${preview.labels[field]}: ${value}`}>
                    {preview.labels[field]}: {value || "–"}
                  </span>
                ))}
              </td>
              <td className={cx("py-1", example.rule === null && "text-soft")}>
                {example.after.map((text, i) => (
                  <b key={i} className="block break-words">
                    {text || "–"}
                  </b>
                ))}
                {withRule && (
                  <span className="text-xs text-soft">
                    {example.rule === null ? "caught by no rule" : `by rule ${example.rule + 1}`}
                  </span>
                )}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
