"use client";

import { closestCenter, DndContext, KeyboardSensor, PointerSensor, useSensor, useSensors } from "@dnd-kit/core";
import {
  arrayMove,
  SortableContext,
  sortableKeyboardCoordinates,
  useSortable,
  verticalListSortingStrategy,
} from "@dnd-kit/sortable";
import { CSS } from "@dnd-kit/utilities";
import { Popover, PopoverButton, PopoverPanel } from "@headlessui/react";
import { Columns3, GripVertical, X } from "lucide-react";
import { useState } from "react";
import { Button } from "@/ui/button";
import { Checkbox, TextInput } from "@/ui/field";

/** Chooses the columns of a table and their order, by mouse or keyboard. The title always stands first. */
export function ColumnChooser({
  fields,
  chosen,
  defaults,
  onChange,
}: {
  fields: { name: string; label: string }[];
  chosen: string[];
  /** The columns as at first. */
  defaults: string[];
  onChange: (chosen: string[]) => void;
}) {
  const [search, setSearch] = useState("");
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    useSensor(KeyboardSensor, { coordinateGetter: sortableKeyboardCoordinates }),
  );
  const labelOf = (name: string) => fields.find((field) => field.name === name)?.label ?? name;
  const found = fields.filter(
    ({ name, label }) => name !== "title" && label.toLowerCase().includes(search.trim().toLowerCase()),
  );
  return (
    <Popover className="relative">
      <PopoverButton as={Button} look="quiet">
        <Columns3 aria-hidden className="size-3.5" /> Columns
      </PopoverButton>
      <PopoverPanel className="absolute right-0 z-20 mt-1 grid w-[460px] grid-cols-2 gap-3 rounded-lg border border-line bg-surface p-3 shadow-lg">
        <div>
          <p className="mb-1 text-xs text-soft">Shown, in this order</p>
          <DndContext
            sensors={sensors}
            collisionDetection={closestCenter}
            onDragEnd={({ active, over }) => {
              if (!over || active.id === over.id) return;
              onChange(arrayMove(chosen, chosen.indexOf(String(active.id)), chosen.indexOf(String(over.id))));
            }}
          >
            <SortableContext items={chosen} strategy={verticalListSortingStrategy}>
              <ul className="max-h-80 space-y-1 overflow-y-auto">
                {chosen.map((name) => (
                  <ChosenColumn
                    key={name}
                    name={name}
                    label={labelOf(name)}
                    onRemove={() => onChange(chosen.filter((other) => other !== name))}
                  />
                ))}
              </ul>
            </SortableContext>
          </DndContext>
          <Button look="quiet" className="mt-1" onClick={() => onChange(defaults)}>
            As at first
          </Button>
        </div>
        <div>
          <TextInput
            aria-label="Find a column"
            placeholder="Find a column"
            value={search}
            onChange={(event) => setSearch(event.target.value)}
          />
          <div className="mt-2 max-h-80 space-y-1.5 overflow-y-auto">
            {found.map(({ name, label }) => (
              <Checkbox
                key={name}
                label={label}
                checked={chosen.includes(name)}
                onChange={(event) =>
                  onChange(event.target.checked ? [...chosen, name] : chosen.filter((other) => other !== name))
                }
              />
            ))}
          </div>
        </div>
      </PopoverPanel>
    </Popover>
  );
}

function ChosenColumn({ name, label, onRemove }: { name: string; label: string; onRemove: () => void }) {
  const { attributes, listeners, setNodeRef, transform, transition } = useSortable({ id: name });
  return (
    <li
      ref={setNodeRef}
      style={{ transform: CSS.Transform.toString(transform), transition }}
      className="flex items-center gap-1 rounded border border-line bg-surface px-1 text-sm"
    >
      <button
        type="button"
        {...attributes}
        {...listeners}
        aria-label={`Move ${label}`}
        className="cursor-grab p-1 text-soft"
      >
        <GripVertical aria-hidden className="size-3.5" />
      </button>
      <span className="flex-1 truncate">{label}</span>
      <button type="button" aria-label={`Hide ${label}`} onClick={onRemove} className="rounded p-0.5 hover:bg-raised">
        <X aria-hidden className="size-3.5" />
      </button>
    </li>
  );
}
