"use client";

import { foldWord } from "@/core/catalogue/availability";
import { useState } from "react";
import { CATEGORY_SEPARATORS } from "@/core/kit/categories";
import { FIELDS, type FieldKey } from "@/core/catalogue/fields";
import { columnsOfSource, mappedColumns, type FieldSource, type Mapping } from "@/core/catalogue/mapping";
import { plural } from "@/core/kit/format";
import type { FeedProposal } from "@/server/catalogue/feeds";
import type { ReadingChoice } from "@/server/catalogue/reading/open-feed";
import { Button } from "@/ui/button";
import { Checkbox, Select, TextInput } from "@/ui/field";
import { SearchSelect } from "@/ui/search-select";
import { howRead, ReadingOverrides } from "../reading-overrides";
import { useWorkspace } from "../../../_lib/workspace";
import { TaxCard } from "./feed/tax-card";
import { UnderstoodPanel } from "./understood-panel";

/** Checks and changes how the fields are read from the feed's columns. */
export function MapColumns({
  fileName,
  proposal,
  onReadAgain,
  onImport,
}: {
  fileName: string;
  proposal: FeedProposal;
  /** Looks at the file anew with what was chosen. */
  onReadAgain: (reading: ReadingChoice) => void;
  onImport: (mapping: Mapping, acceptLoss: boolean) => void;
}) {
  const [mapping, setMapping] = useState<Mapping>(proposal.mapping);
  const [acceptLoss, setAcceptLoss] = useState(false);
  const { tax } = useWorkspace();
  const asksTax = tax.rate === 0 && !isBlank(mapping.columns.cost ?? null) && isBlank(mapping.columns.tax ?? null);
  const used = new Set(mappedColumns(mapping));
  const unused = proposal.columns.filter((column) => !used.has(column.name));
  const missing = FIELDS.filter((field) => field.required && isBlank(mapping.columns[field.key] ?? null));
  const set = (key: FieldKey, source: FieldSource) =>
    setMapping({ ...mapping, columns: { ...mapping.columns, [key]: source } });
  return (
    <div>
      <div className="mb-3 flex flex-wrap items-center gap-x-4 gap-y-2">
        <p className="flex-1">
          <b>{fileName}</b>{" "}
          <span className="text-soft">
            · {howRead(proposal)} · {plural(proposal.columns.length, "column")}, looked at{" "}
            {plural(proposal.sampled, "row")}
          </span>
          {proposal.saved && <span className="text-soft"> · your saved columns are kept where they still exist</span>}
        </p>
        <ReadingOverrides found={proposal} onReadAgain={onReadAgain} />
      </div>
      {proposal.repeated.length > 0 && (
        <p className="mb-2 rounded-md bg-petrol-wash px-3 py-1.5">
          Headings that stand twice are told apart by a number: {proposal.repeated.join(", ")}.
        </p>
      )}
      {proposal.notices.length > 0 && (
        <ul
          className="mb-2 max-h-16 overflow-y-auto rounded-md bg-petrol-wash px-3 py-1.5 text-sm"
          tabIndex={0}
          aria-label="What became of your saved columns"
        >
          {proposal.notices.map((notice) => (
            <li key={notice}>{notice}</li>
          ))}
        </ul>
      )}
      <div
        className="max-h-[26vh] overflow-y-auto rounded-md border border-line"
        tabIndex={0}
        role="region"
        aria-label="Columns"
      >
        <table className="w-full text-sm">
          <thead className="sticky top-0 z-10 bg-surface text-left text-soft">
            <tr className="border-b border-line">
              <th className="w-72 px-3 py-1.5 font-normal">Field</th>
              <th className="w-72 px-3 py-1.5 font-normal">Where it comes from</th>
              <th className="px-3 py-1.5 font-normal">Samples</th>
            </tr>
          </thead>
          <tbody>
            {FIELDS.map((field) => {
              const source = mapping.columns[field.key] ?? null;
              const proposed = proposal.proposals.find((one) => one.field === field.key);
              const isProposed = JSON.stringify(proposed?.source) === JSON.stringify(source);
              const isUnsure = source !== null && isProposed && !proposal.saved && (proposed?.score ?? 1) < 0.7;
              return (
                <tr key={field.key} className="border-b border-line/70 align-top">
                  <td className="px-3 py-1.5">
                    <b>{field.label}</b>
                    {field.required && <span className="text-soft"> · needed</span>}
                    <span className="block text-xs text-soft">{field.about}</span>
                  </td>
                  <td className="px-3 py-1.5">
                    <SourceInput
                      label={field.label}
                      required={field.required}
                      source={source}
                      columns={proposal.columns.map(({ name }) => name)}
                      onChange={(next) => set(field.key, next)}
                    />
                    {isUnsure && <span className="text-xs text-ember">Not sure: please check</span>}
                  </td>
                  <td className="max-w-72 px-3 py-1.5 text-soft">
                    <Samples source={source} proposal={proposal} />
                    {field.key === "price" && source !== null && (
                      <Select
                        aria-label="Decimal mark of amounts"
                        className="mt-1 w-56!"
                        value={mapping.decimal}
                        onChange={(event) =>
                          setMapping({ ...mapping, decimal: event.target.value as Mapping["decimal"] })
                        }
                      >
                        <option value="auto">decimal mark told by each amount</option>
                        <option value=".">decimal point: 1,234.56</option>
                        <option value=",">decimal comma: 1.234,56</option>
                      </Select>
                    )}
                    {field.key === "category" && source !== null && (
                      <Select
                        aria-label="What parts the levels of a category"
                        className="mt-1 w-56!"
                        value={mapping.categorySeparator ?? ""}
                        onChange={(event) =>
                          setMapping({
                            ...mapping,
                            categorySeparator: (event.target.value || null) as Mapping["categorySeparator"],
                          })
                        }
                      >
                        <option value="">levels parted by &gt; or |</option>
                        {CATEGORY_SEPARATORS.slice(5).map((separator) => (
                          <option key={separator} value={separator}>
                            levels parted by “{separator}”
                          </option>
                        ))}
                      </Select>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </div>
      {unused.length > 0 && (
        <p className="mt-2 text-sm text-soft">
          Kept under their own names, usable in every rule and split: {unused.map(({ name }) => name).join(", ")}.
        </p>
      )}
      <UnderstoodPanel
        upload={proposal.upload}
        mapping={withoutBlanks(mapping)}
        reading={proposal.reading}
        onMark={(decimal) => setMapping({ ...mapping, decimal })}
        onMeaning={(word, meaning) =>
          setMapping({ ...mapping, availability: { ...mapping.availability, [foldWord(word)]: meaning } })
        }
        onWords={(words) =>
          setMapping({ ...mapping, moneyWords: [...new Set([...mapping.moneyWords, ...words])].slice(0, 50) })
        }
      />
      {asksTax && (
        <div className="mt-3" role="group" aria-label="Tax">
          <p className="mb-1 text-sm">
            The feed has costs, and nobody said yet how much tax prices hold: until then margins are worked as if there
            were none.
          </p>
          <TaxCard />
        </div>
      )}
      <div className="mt-3 flex items-center justify-between gap-3 border-t border-line pt-3">
        <Checkbox
          label="Go on even if many items are no longer in the feed"
          checked={acceptLoss}
          onChange={(event) => setAcceptLoss(event.target.checked)}
        />
        <div className="flex items-center gap-3">
          {missing.length > 0 && (
            <span className="text-sm font-semibold text-ember">
              Still needed: {missing.map(({ label }) => label).join(", ")}
            </span>
          )}
          <Button
            look="ember"
            disabled={missing.length > 0}
            onClick={() => onImport(withoutBlanks(mapping), acceptLoss)}
          >
            Read the feed
          </Button>
        </div>
      </div>
    </div>
  );
}

/** Whether a field gets nothing: no source, or a text that was not typed yet. */
function isBlank(source: FieldSource): boolean {
  return source === null || (typeof source === "object" && "constant" in source && source.constant.trim() === "");
}

function withoutBlanks(mapping: Mapping): Mapping {
  const columns = Object.entries(mapping.columns).map(([key, source]) => [key, isBlank(source) ? null : source]);
  return { ...mapping, columns: Object.fromEntries(columns) as Mapping["columns"] };
}

const CONSTANT = "\u0000constant";
const JOINED = "\u0000joined";

function SourceInput({
  label,
  required,
  source,
  columns,
  onChange,
}: {
  label: string;
  required: boolean;
  source: FieldSource;
  columns: string[];
  onChange: (source: FieldSource) => void;
}) {
  const kind = source === null ? "" : typeof source === "string" ? source : "constant" in source ? CONSTANT : JOINED;
  const choose = (value: string) => {
    const [first = ""] = columnsOfSource(source);
    if (value === CONSTANT) onChange({ constant: " " });
    else if (value === JOINED) onChange({ join: [first || columns[0]!, columns[1] ?? columns[0]!], by: " " });
    else onChange(value || null);
  };
  return (
    <div className="space-y-1">
      <SearchSelect
        label={`Column for ${label}`}
        value={kind}
        choices={[
          { value: "", label: required ? "Choose a column" : "None" },
          ...columns.map((name) => ({ value: name, label: name })),
          { value: CONSTANT, label: "The same text for every item …" },
          { value: JOINED, label: "Several columns joined …" },
        ]}
        onChange={choose}
      />
      {kind === CONSTANT && (
        <TextInput
          aria-label={`Text for ${label}`}
          placeholder="Text for every item"
          defaultValue={typeof source === "object" && source && "constant" in source ? source.constant.trim() : ""}
          onChange={(event) => onChange({ constant: event.target.value || " " })}
        />
      )}
      {typeof source === "object" && source !== null && "join" in source && (
        <div className="space-y-1">
          {source.join.map((column, at) => (
            <Select
              key={at}
              aria-label={`Column ${at + 1} joined for ${label}`}
              value={column}
              onChange={(event) => {
                const next = event.target.value;
                const join = source.join.flatMap((old, i) => (i !== at ? [old] : next === "" ? [] : [next]));
                onChange(join.length < 2 ? (join[0] ?? null) : { ...source, join });
              }}
            >
              <option value="">Leave this one out</option>
              {columns.map((name) => (
                <option key={name}>{name}</option>
              ))}
            </Select>
          ))}
          <div className="flex items-center gap-2">
            <Button
              look="quiet"
              disabled={source.join.length >= 6}
              onClick={() => onChange({ ...source, join: [...source.join, columns[0]!] })}
            >
              One more
            </Button>
            <label className="flex items-center gap-1 text-xs text-soft">
              between them
              <TextInput
                className="w-16!"
                value={source.by}
                onChange={(event) => onChange({ ...source, by: event.target.value })}
              />
            </label>
          </div>
        </div>
      )}
    </div>
  );
}

function Samples({ source, proposal }: { source: FieldSource; proposal: FeedProposal }) {
  if (typeof source === "object" && source && "constant" in source) {
    return <span>{source.constant.trim() || "–"}</span>;
  }
  const columns = columnsOfSource(source).flatMap((name) => proposal.columns.find((one) => one.name === name) ?? []);
  const [first] = columns;
  if (!first) return null;
  const rows = first.samples.slice(0, 3).map((_, i) => columns.map(({ samples }) => samples[i] ?? "").join(" "));
  return (
    <>
      {rows.map((sample, i) => (
        <span key={i} className="block truncate" title={sample}>
          {sample}
        </span>
      ))}
      {first.filled < proposal.sampled && (
        <span className="block text-xs num">
          filled in {first.filled} of {proposal.sampled}
        </span>
      )}
    </>
  );
}
