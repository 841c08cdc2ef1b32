"use client";

import { shelvesOf, type ShelfSet } from "@/core/shelves/shelf-set";
import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { ListFilter, X } from "lucide-react";
import { useState, type ReactNode, type RefObject } from "react";
import { isGroup, isValueless, type Condition, type Where } from "@/core/catalogue/where";
import { FINDING, type FindingCode } from "@/core/catalogue/findings/finding";
import { FAULT, type FaultCode } from "@/core/catalogue/faults";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { TextInput } from "@/ui/field";
import { conditionWords, WhereBuilder, whereWords, type FieldChoice } from "./where-builder";
import { useShelfSets } from "../shelves/use-shelf-fields";

export interface FilterState {
  q: string;
  filter: Where;
  shelf: string;
}

/** What a chip says of a fault that the items are narrowed to. */
function faultWords(name: string): string {
  const code = name.slice("fault:".length);
  return FAULT[code as FaultCode]?.label ?? FINDING[code as FindingCode]?.label ?? code.replaceAll("-", " ");
}

/** A shelf with the set it stands in: a shelf that is called like a step of heat is not that step. */
function shelfChip(path: string, sets: { definition: ShelfSet }[]): string {
  const [set = "", shelf = ""] = path.split("/");
  const found = sets.find(({ definition }) => definition.key === set)?.definition;
  const name = found && shelvesOf(found).find(({ key }) => key === shelf)?.name;
  return `On shelf “${name ?? shelf}” of “${found?.name ?? set}”`;
}

/** Search, conditions as chips, a shelf; conditions of any depth in a dialog. */
export function FilterBar({
  searchBox,
  state,
  fields,
  onChange,
  children,
}: {
  searchBox: RefObject<HTMLInputElement | null>;
  state: FilterState;
  fields: FieldChoice[];
  onChange: (change: Partial<FilterState>) => void;
  children?: ReactNode;
}) {
  const { q, filter, shelf } = state;
  const sets = useShelfSets();
  const [draft, setDraft] = useState<Where | null>(null);
  const chip = (key: string, text: string, onRemove: () => void) => (
    <span
      key={key}
      className="inline-flex h-7 max-w-96 items-center gap-1 rounded-full border border-petrol/40 bg-petrol-wash pr-1 pl-3 text-sm"
    >
      <span className="truncate">{text}</span>
      <button
        type="button"
        aria-label={`Remove: ${text}`}
        onClick={onRemove}
        className="rounded-full p-0.5 hover:bg-surface"
      >
        <X aria-hidden className="size-3.5" />
      </button>
    </span>
  );
  const words = (part: Condition | Where) =>
    isGroup(part)
      ? whereWords(part, fields)
      : part.field.startsWith("fault:")
        ? faultWords(part.field)
        : conditionWords(part, fields);
  return (
    <div className="flex flex-wrap items-center gap-2">
      <TextInput
        ref={searchBox}
        type="search"
        aria-label="Search items"
        placeholder="Search title, ID, brand   ( / )"
        className="w-64!"
        value={q}
        onChange={(event) => onChange({ q: event.target.value })}
        onKeyDown={(event) => event.key === "Escape" && event.currentTarget.blur()}
      />
      {filter.of.map((part, i) => (
        <span key={i} className="contents">
          {i > 0 && filter.match === "any" && <span className="text-sm text-soft">or</span>}
          {chip(`${i}`, words(part), () =>
            onChange({ filter: { ...filter, of: filter.of.filter((_, at) => at !== i) } }),
          )}
        </span>
      ))}
      {shelf !== "" && chip("shelf", shelfChip(shelf, sets.data ?? []), () => onChange({ shelf: "" }))}
      <Popover className="relative">
        <PopoverButton as={Button} look="quiet">
          <ListFilter aria-hidden className="size-3.5" /> Add filter
        </PopoverButton>
        <PopoverPanel className="absolute left-0 z-20 mt-1 w-[560px] rounded-lg border border-line bg-surface p-3 shadow-lg">
          {({ close }) => (
            <ConditionForm
              fields={fields}
              onAdd={(condition) => {
                onChange({ filter: { ...filter, of: [...filter.of, condition] } });
                close();
              }}
            />
          )}
        </PopoverPanel>
      </Popover>
      {filter.of.length > 0 && (
        <Button look="quiet" onClick={() => setDraft(filter)}>
          All or any …
        </Button>
      )}
      <span className="ml-auto flex items-center gap-1">{children}</span>
      <Dialog open={draft !== null} onClose={() => setDraft(null)} title="Items that fit" wide>
        {draft && (
          <div className="space-y-4">
            <WhereBuilder where={draft} fields={fields} onChange={setDraft} />
            <div className="flex justify-end gap-2">
              <Button onClick={() => setDraft(null)}>Leave it</Button>
              <Button
                look="ember"
                onClick={() => {
                  onChange({ filter: draft });
                  setDraft(null);
                }}
              >
                Show these items
              </Button>
            </div>
          </div>
        )}
      </Dialog>
    </div>
  );
}

function ConditionForm({ fields, onAdd }: { fields: FieldChoice[]; onAdd: (condition: Condition) => void }) {
  const [where, setWhere] = useState<Where>({ match: "all", of: [{ field: "heat", op: "is", value: "hot" }] });
  const condition = where.of[0] as Condition | undefined;
  const isReady = condition && (isValueless(condition.op) || condition.value.trim() !== "");
  return (
    <form
      className="space-y-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (condition && isReady) onAdd(condition);
      }}
    >
      <OneCondition where={where} fields={fields} onChange={setWhere} />
      <Button look="ember" type="submit" disabled={!isReady} className="w-full justify-center">
        Add filter
      </Button>
    </form>
  );
}

/** The builder for one condition alone: no adding, no removing. */
function OneCondition(props: { where: Where; fields: FieldChoice[]; onChange: (where: Where) => void }) {
  return (
    <div className="[&_button]:hidden">
      <WhereBuilder {...props} />
    </div>
  );
}
