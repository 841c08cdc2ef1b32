"use client";

import { closestCenter, DndContext, PointerSensor, useSensor, useSensors, type DragEndEvent } from "@dnd-kit/core";
import { arrayMove, rectSortingStrategy, SortableContext, useSortable } from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { GripVertical, X } from "lucide-react";
import { useId, useState, type ClipboardEvent, type KeyboardEvent, type ReactNode } from "react";
import { partsAsText, partsFromText } from "@/core/parts/cell";
import { LINE_STEPS, type FieldPart, type Part } from "@/core/parts/part";
import { STEP_LABEL, type Step } from "@/core/parts/steps";
import { Button } from "@/ui/button";
import { cx } from "@/ui/cx";
import { SearchSelect, type Choice } from "@/ui/search-select";
import type { FieldChoice } from "../catalogue/where-builder";
import { StepList } from "./step-list";

/**
 * Texts typed between chips that stand for values: the one editor of names, ad lines and derived fields. A part is moved by
 * dragging it, or with Alt and an arrow; a click on a chip opens what is done to its value.
 */
export function PartsEditor({
  label,
  value,
  choices,
  most = 12,
  steps = LINE_STEPS,
  withRow,
  onChange,
  onPasteLines,
  children,
}: {
  label: string;
  value: readonly Part[];
  choices: readonly Choice[];
  most?: number;
  steps?: readonly Step["do"][];
  /** Where steps can look at the whole row: its fields, and the lists to look up in. */
  withRow?: { fields: FieldChoice[]; lists: { key: string; name: string }[] };
  onChange: (value: Part[]) => void;
  /** Several pasted lines, the first of them as this one is now; left out, they are pasted as one. */
  onPasteLines?: (lines: Part[][]) => void;
  /** What else belongs behind the parts. */
  children?: ReactNode;
}) {
  const id = useId();
  const [adding, setAdding] = useState(false);
  const sensors = useSensors(useSensor(PointerSensor, { activationConstraint: { distance: 4 } }));
  const ids = value.map((_, at) => `${id}${at}`);
  const labelOf = (field: string) => choices.find((choice) => choice.value === field)?.label ?? field;
  const move = (from: number, to: number) => {
    if (to < 0 || to >= value.length) return;
    onChange(arrayMove([...value], from, to));
    // The part keeps the focus at its new place.
    requestAnimationFrame(() => document.getElementById(`${id}${to}`)?.focus());
  };
  const onDragEnd = ({ active, over }: DragEndEvent) => {
    if (over) move(ids.indexOf(String(active.id)), ids.indexOf(String(over.id)));
  };
  const keysAt = (at: number) => (event: KeyboardEvent) => {
    if (!event.altKey || (event.key !== "ArrowLeft" && event.key !== "ArrowRight")) return;
    event.preventDefault();
    move(at, at + (event.key === "ArrowLeft" ? -1 : 1));
  };
  const pasteAt = (at: number, words: string) => (event: ClipboardEvent<HTMLInputElement>) => {
    const lines = pastedLines(event.clipboardData.getData("text"), choices);
    const isPlain = lines.length < 2 && lines[0]?.every((part) => part.kind === "text");
    if (lines.length === 0 || isPlain) return;
    event.preventDefault();
    const box = event.currentTarget;
    const [before, after] = [words.slice(0, box.selectionStart ?? 0), words.slice(box.selectionEnd ?? 0)];
    const [first = [], ...rest] = onPasteLines ? lines : [oneLine(lines)];
    const around = (parts: Part[]) => joined([{ kind: "text", text: before }, ...parts, { kind: "text", text: after }]);
    const own = value.toSpliced(at, 1, ...around(first));
    // Nothing of it is thrown away: what can't be so many parts is pasted as the text it is.
    if (own.length > most || rest.some((line) => line.length > most)) {
      return onChange(value.with(at, { kind: "text", text: before + partsAsText(oneLine(lines)) + after }));
    }
    if (onPasteLines && rest.length > 0) onPasteLines([own, ...rest]);
    else onChange(own);
  };
  const add = (part: Part) => {
    setAdding(false);
    const last = value.at(-1);
    // An empty text at the end gives way to a field.
    const isGivingWay = part.kind === "field" && last?.kind === "text" && last.text === "";
    onChange([...(isGivingWay ? value.slice(0, -1) : value), part]);
  };
  return (
    <div className="flex flex-wrap items-center gap-1">
      <DndContext
        id={id}
        sensors={sensors}
        collisionDetection={closestCenter}
        onDragEnd={onDragEnd}
        accessibility={{ screenReaderInstructions: { draggable: "Hold Alt and press an arrow to move it." } }}
      >
        <SortableContext items={ids} strategy={rectSortingStrategy}>
          {value.map((part, at) =>
            part.kind === "text" ? (
              <TextPart
                key={ids[at]}
                id={ids[at]!}
                label={`${label}: text ${at + 1}`}
                text={part.text}
                onChange={(text) => onChange(value.with(at, { kind: "text", text }))}
                onRemove={() => onChange(value.toSpliced(at, 1))}
                onKeys={keysAt(at)}
                onPaste={pasteAt(at, part.text)}
              />
            ) : (
              <FieldChip
                key={ids[at]}
                id={ids[at]!}
                label={labelOf(part.field)}
                part={part}
                choices={choices}
                steps={steps}
                withRow={withRow}
                onChange={(next) => onChange(value.with(at, next))}
                onRemove={() => onChange(value.toSpliced(at, 1))}
                onKeys={keysAt(at)}
              />
            ),
          )}
        </SortableContext>
      </DndContext>
      {value.length < most &&
        (adding ? (
          <SearchSelect
            label={`Field for ${label.toLowerCase()}`}
            className="w-40"
            value=""
            choices={choices}
            placeholder="a field"
            onChange={(field) => add({ kind: "field", field })}
          />
        ) : (
          <Button look="quiet" className="h-7! px-1.5!" onClick={() => setAdding(true)}>
            + field
          </Button>
        ))}
      {value.length < most && value.at(-1)?.kind !== "text" && (
        <Button look="quiet" className="h-7! px-1.5!" onClick={() => add({ kind: "text", text: withRow ? "" : " " })}>
          + text
        </Button>
      )}
      {children}
    </div>
  );
}

/** Pasted text as lines of parts: fields in brackets are told by name or label; what is no field stays as it was typed. */
function pastedLines(pasted: string, choices: readonly Choice[]): Part[][] {
  const known = new Map(
    choices.flatMap(({ value, label }) => [
      [value.toLowerCase(), value] as const,
      [label.toLowerCase(), value] as const,
    ]),
  );
  return pasted
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter((line) => line !== "")
    .map((line): Part[] => {
      const read = partsFromText(line);
      const parts = typeof read === "string" ? undefined : read[0];
      const isKnown = parts?.every((part) => part.kind === "text" || known.has(part.field.toLowerCase()));
      if (!parts || !isKnown) return [{ kind: "text", text: line }];
      return parts.map((part) =>
        part.kind === "text" ? part : { ...part, field: known.get(part.field.toLowerCase())! },
      );
    });
}

/** Lines one behind the other, with a blank between them. */
function oneLine(lines: readonly Part[][]): Part[] {
  return lines.flatMap((line, i): Part[] => (i === 0 ? line : [{ kind: "text", text: " " }, ...line]));
}

/** Parts with texts that meet made one, and empty ones left out. */
function joined(parts: readonly Part[]): Part[] {
  const made: Part[] = [];
  for (const part of parts) {
    const last = made.at(-1);
    if (part.kind === "text" && last?.kind === "text")
      made[made.length - 1] = { kind: "text", text: last.text + part.text };
    else if (part.kind === "field" || part.text !== "") made.push(part);
  }
  return made;
}

const MOVES = "drag it, or hold Alt and press an arrow, to move it";

function useMoved(id: string) {
  const { attributes, listeners, setNodeRef, transform, transition, isDragging } = useSortable({ id });
  return {
    setNodeRef,
    handle: { ...listeners, "aria-describedby": attributes["aria-describedby"] },
    style: { transform: CSS.Translate.toString(transform), transition },
    lifted: isDragging && "relative z-10 shadow-lg",
  };
}

function TextPart({
  id,
  label,
  text,
  onChange,
  onRemove,
  onKeys,
  onPaste,
}: {
  id: string;
  label: string;
  text: string;
  onChange: (text: string) => void;
  onRemove: () => void;
  onKeys: (event: KeyboardEvent) => void;
  onPaste: (event: ClipboardEvent<HTMLInputElement>) => void;
}) {
  const { setNodeRef, handle, style, lifted } = useMoved(id);
  return (
    <span
      ref={setNodeRef}
      style={style}
      className={cx("inline-flex h-7 max-w-full items-center rounded border border-line bg-surface text-sm", lifted)}
    >
      <span {...handle} title={`Text: ${MOVES}`} className="cursor-grab touch-none pl-0.5 text-soft/60">
        <GripVertical aria-hidden className="size-3" />
      </span>
      <input
        id={id}
        aria-label={label}
        aria-keyshortcuts="Alt+ArrowLeft Alt+ArrowRight"
        className="h-full max-w-full rounded bg-transparent pr-1.5 pl-0.5"
        placeholder="text"
        style={{ width: `${Math.max(5, text.length + 2)}ch` }}
        value={text}
        onChange={(event) => onChange(event.target.value)}
        onPaste={onPaste}
        onKeyDown={(event) => {
          onKeys(event);
          if (event.key === "Backspace" && text === "") onRemove();
        }}
      />
    </span>
  );
}

function FieldChip({
  id,
  label,
  part,
  choices,
  steps: offered,
  withRow,
  onChange,
  onRemove,
  onKeys,
}: {
  id: string;
  label: string;
  part: FieldPart;
  choices: readonly Choice[];
  steps: readonly Step["do"][];
  withRow: { fields: FieldChoice[]; lists: { key: string; name: string }[] } | undefined;
  onChange: (part: FieldPart) => void;
  onRemove: () => void;
  onKeys: (event: KeyboardEvent) => void;
}) {
  const { setNodeRef, handle, style, lifted } = useMoved(id);
  const { field, steps = [] } = part;
  const set = (name: string, next: readonly Step[]) =>
    onChange({ kind: "field", field: name, ...(next.length > 0 && { steps: [...next] }) });
  const told = steps.map((step) => STEP_LABEL[step.do]).join(", then ");
  return (
    <Popover
      as="span"
      ref={setNodeRef}
      style={style}
      className={cx("inline-flex h-7 items-center rounded bg-petrol-wash text-sm", lifted)}
    >
      <PopoverButton
        id={id}
        {...handle}
        title={told ? `${label}: ${told}` : `${label}: click to change its value; ${MOVES}`}
        aria-label={told ? `${label} +${steps.length}: ${told}` : label}
        aria-keyshortcuts="Alt+ArrowLeft Alt+ArrowRight Delete"
        className="inline-flex h-full max-w-60 cursor-grab touch-none items-center gap-1 rounded pl-2"
        onKeyDown={(event: KeyboardEvent) => {
          onKeys(event);
          if (event.key === "Delete" || event.key === "Backspace") onRemove();
        }}
      >
        <span className="truncate">{label}</span>
        {told && <span className="text-xs text-petrol num">+{steps.length}</span>}
      </PopoverButton>
      <button type="button" aria-label={`Remove ${label}`} className="mx-1" onClick={onRemove}>
        <X aria-hidden className="size-3" />
      </button>
      <PopoverPanel
        anchor="bottom start"
        className="z-30 mt-1 w-140 space-y-2 rounded-lg border border-line bg-surface p-3 shadow-lg"
      >
        <div className="flex items-center gap-2 text-sm">
          <span className="text-soft">The value of</span>
          <SearchSelect
            label={`Field in place of ${label}`}
            className="w-56"
            value={field}
            choices={
              choices.some(({ value }) => value === field) ? choices : [{ value: field, label: field }, ...choices]
            }
            onChange={(name) => set(name, steps)}
          />
        </div>
        <StepList steps={steps} offered={offered} first="shorten" {...withRow} onChange={(next) => set(field, next)} />
      </PopoverPanel>
    </Popover>
  );
}
