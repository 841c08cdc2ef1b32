"use client";

import {
  closestCenter,
  DndContext,
  KeyboardSensor,
  PointerSensor,
  useSensor,
  useSensors,
  type DragEndEvent,
} from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { GripVertical, Plus, X } from "lucide-react";
import { useId, useState, type ReactNode } from "react";
import { plural } from "@/core/kit/format";
import {
  CAMPAIGN_LINE,
  ladderFromList,
  ladderList,
  rungAt,
  withoutRung,
  type LadderPart,
} from "@/core/planogram/ladder-lines";
import { MOST_LEVELS } from "@/core/planogram/names";
import type { Split } from "@/core/planogram/planogram";
import type { SplitField } from "@/server/planogram/planograms";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { Select, TextInput } from "@/ui/field";
import { SearchSelect } from "@/ui/search-select";
import { ValuesDialog } from "./values-dialog";

/** The split ladder: rungs with coverage and number of values, and two lines one drags. */
export function Ladder({
  value,
  fields,
  onChange,
}: {
  value: LadderPart;
  fields: SplitField[];
  onChange: (value: LadderPart) => void;
}) {
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const id = useId();
  const list = ladderList(value);
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (!over || active.id === over.id) return;
    const moved = arrayMove(list, list.indexOf(String(active.id)), list.indexOf(String(over.id)));
    onChange(ladderFromList(moved, value.ladder));
  };
  const setRung = (at: number, split: Split) =>
    onChange({ ...value, ladder: value.ladder.map((old, i) => (i === at ? split : old)) });
  const unused = fields.filter((field) => !value.ladder.some((split) => split.by === field.by));
  return (
    <div>
      <DndContext id={id} sensors={sensors} collisionDetection={closestCenter} onDragEnd={onDragEnd}>
        <SortableContext items={list} strategy={verticalListSortingStrategy}>
          <ol className="space-y-1.5" aria-label="Split ladder">
            {list.map((part) => {
              const at = rungAt(part);
              if (at === null) return <Line key={part} id={part} isCampaign={part === CAMPAIGN_LINE} value={value} />;
              return (
                <Rung
                  key={part}
                  id={part}
                  at={at}
                  value={value}
                  fields={fields}
                  onChange={(split) => setRung(at, split)}
                  onRemove={value.ladder.length > 1 ? () => onChange(withoutRung(value, at)) : undefined}
                />
              );
            })}
          </ol>
        </SortableContext>
      </DndContext>
      {value.ladder.length < MOST_LEVELS && unused.length > 0 && (
        <Button
          look="quiet"
          className="mt-1"
          onClick={() => onChange({ ...value, ladder: [...value.ladder, { by: unused[0]!.by, largest: null }] })}
        >
          <Plus aria-hidden className="size-3.5" /> Add a split
        </Button>
      )}
    </div>
  );
}

function Sortable({
  id,
  label,
  className,
  children,
}: {
  id: string;
  label: string;
  className: string;
  children: ReactNode;
}) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id });
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Translate.toString(transform), transition }}
      className={cx("flex items-center gap-2", className, isDragging && "relative z-10 shadow-lg")}
    >
      <button
        type="button"
        {...attributes}
        {...listeners}
        aria-label={label}
        className="cursor-grab touch-none text-soft"
      >
        <GripVertical aria-hidden className="size-4" />
      </button>
      {children}
    </li>
  );
}

function Line({ id, isCampaign, value }: { id: string; isCampaign: boolean; value: LadderPart }) {
  const level = isCampaign ? value.campaignLine : value.adGroupLine;
  const name = isCampaign ? "Campaigns form here" : "Ad groups form here";
  const text = level === 0 ? "one for all" : "one for each value above";
  return (
    <Sortable id={id} label={`Move the ${isCampaign ? "campaign" : "ad-group"} line`} className="rounded px-1 py-0.5">
      <span className={cx("h-0.5 w-6", isCampaign ? "bg-ember" : "bg-petrol")} />
      <span className={cx("text-sm font-semibold", isCampaign ? "text-ember" : "text-petrol")}>{name}</span>
      <span className="text-xs text-soft">{text}</span>
      <span className={cx("h-0.5 flex-1", isCampaign ? "bg-ember" : "bg-petrol")} />
    </Sortable>
  );
}

function Rung({
  id,
  at,
  value,
  fields,
  onChange,
  onRemove,
}: {
  id: string;
  at: number;
  value: LadderPart;
  fields: SplitField[];
  onChange: (split: Split) => void;
  onRemove: (() => void) | undefined;
}) {
  const split = value.ladder[at]!;
  const field = fields.find(({ by }) => by === split.by);
  const usedElsewhere = new Set(value.ladder.filter((_, i) => i !== at).map(({ by }) => by));
  const share = field ? field.filled / Math.max(1, field.total) : 0;
  return (
    <Sortable id={id} label={`Move split ${at + 1}`} className="rounded-md border border-line bg-surface px-2 py-1.5">
      <div className="min-w-0 flex-1">
        <div className="flex items-center gap-2">
          <SearchSelect
            label={`Split ${at + 1} by`}
            value={split.by}
            choices={[
              ...(field ? [] : [{ value: split.by, label: "A field that is no longer there" }]),
              ...fields.filter(({ by }) => !usedElsewhere.has(by)).map(({ by, label }) => ({ value: by, label })),
            ]}
            onChange={(by) => onChange({ by, largest: null })}
          />
          {onRemove && (
            <button
              type="button"
              aria-label={`Remove split ${at + 1}`}
              onClick={onRemove}
              className="text-soft hover:text-ink"
            >
              <X aria-hidden className="size-4" />
            </button>
          )}
        </div>
        {field && (
          <div className="mt-1 flex flex-wrap items-center gap-2 text-xs text-soft num">
            <span
              title="Share of items with a value"
              className="h-1 w-12 shrink-0 overflow-hidden rounded-full bg-line"
              aria-hidden
            >
              <span className="block h-full bg-petrol" style={{ width: `${share * 100}%` }} />
            </span>
            <span>
              {(100 * share).toFixed(share === 1 ? 0 : 1)} % · {plural(field.distinct, "value")}
            </span>
            {split.by !== "id" && <Taken split={split} fields={fields} onChange={onChange} />}
          </div>
        )}
      </div>
    </Sortable>
  );
}

const MEASURES = { items: "items", cost: "spend", clicks: "clicks", revenue: "sales" } as const;

/** Which values a split takes: all, the biggest, or some chosen by hand; and what becomes of the others. */
function Taken({ split, fields, onChange }: { split: Split; fields: SplitField[]; onChange: (split: Split) => void }) {
  const [choosing, setChoosing] = useState(false);
  const { by, largest, values } = split;
  const way = values ? "chosen" : largest ? "largest" : "all";
  const take = (to: string) => {
    if (to === "all") onChange({ by, largest: null });
    else if (to === "largest") {
      const { others, othersBy } = split;
      onChange({ by, largest: { count: 10, measure: "revenue" }, others, othersBy });
    } else setChoosing(true);
  };
  return (
    <span className={cx("flex flex-wrap items-center gap-1", way === "all" ? "ml-auto" : "w-full")}>
      <Select
        aria-label="Values taken"
        className="h-6! w-32!"
        value={way}
        onChange={(event) => take(event.target.value)}
      >
        <option value="all">all</option>
        <option value="largest">the largest</option>
        <option value="chosen">{values ? plural(values.length, "value") : "chosen …"}</option>
      </Select>
      {values && (
        <button type="button" className="text-petrol" onClick={() => setChoosing(true)}>
          choose
        </button>
      )}
      {largest && !values && (
        <>
          <TextInput
            aria-label="How many of the largest values"
            className="h-6! w-12!"
            inputMode="numeric"
            defaultValue={largest.count}
            onChange={(event) => {
              const count = Math.round(Number(event.target.value));
              if (count >= 1 && count <= 1000) onChange({ ...split, largest: { ...largest, count } });
            }}
          />
          <Select
            aria-label="Largest by"
            className="h-6! w-28!"
            value={largest.measure}
            onChange={(event) =>
              onChange({ ...split, largest: { ...largest, measure: event.target.value as keyof typeof MEASURES } })
            }
          >
            {Object.entries(MEASURES).map(([key, label]) => (
              <option key={key} value={key}>
                by {label}
              </option>
            ))}
          </Select>
        </>
      )}
      {way !== "all" && (
        <Select
          aria-label="What becomes of the others"
          className="h-6! w-40!"
          value={split.others ?? "pooled"}
          onChange={(event) => {
            const others = event.target.value as NonNullable<Split["others"]>;
            const [first] = fields.filter((field) => field.by !== by);
            onChange({ ...split, others, othersBy: others === "divided" ? (split.othersBy ?? first?.by) : undefined });
          }}
        >
          <option value="pooled">others pooled</option>
          <option value="closed">others get no ads</option>
          <option value="divided">others divided by …</option>
        </Select>
      )}
      {way !== "all" && split.others === "divided" && (
        <Select
          aria-label="Field that divides the others"
          className="h-6! w-40!"
          value={split.othersBy ?? ""}
          onChange={(event) => onChange({ ...split, othersBy: event.target.value })}
        >
          {fields
            .filter((field) => field.by !== by)
            .map((field) => (
              <option key={field.by} value={field.by}>
                {field.label}
              </option>
            ))}
        </Select>
      )}
      {choosing && (
        <ValuesDialog
          by={by}
          chosen={values ?? null}
          onClose={() => setChoosing(false)}
          onChoose={(chosen) => {
            setChoosing(false);
            onChange({ by, largest: null, values: chosen, others: split.others, othersBy: split.othersBy });
          }}
        />
      )}
    </span>
  );
}
