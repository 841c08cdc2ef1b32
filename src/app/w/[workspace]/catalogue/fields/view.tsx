"use client";

import { Plus, Trash2 } from "lucide-react";
import Link from "next/link";
import { useRouter } from "next/navigation";
import { useState } from "react";
import type { DerivedField } from "@/core/catalogue/derive/derived-field";
import { FIELD } from "@/core/catalogue/fields";
import { formatCount, plural } from "@/core/kit/format";
import type { FieldInfo } from "@/server/catalogue/field-list";
import { Button, buttonClasses } from "@/ui/button";
import { TextInput } from "@/ui/field";
import { EmptyNote } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { sayDone } from "../../../../_lib/undo";
import { apiDelete, apiSend, toastError, useApi } from "../../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../../_lib/workspace";
import { CatalogueTabs } from "../tabs";
import { useFeeds, useFields } from "../use-feeds";
import { LookupDialog } from "./lookup-dialog";

interface DerivedAnswer {
  fields: DerivedField[];
  lists: { key: string; name: string; entries: number }[];
}

const GROUP_WORD: Record<FieldInfo["group"], string> = {
  feed: "field",
  extra: "other column",
  derived: "derived",
  made: "worked out",
};

/** Every field with its coverage, the derived fields, and the look-up lists they use. */
export default function FieldsPage() {
  const { slug } = useWorkspace();
  const apiPath = useApiPath();
  const router = useRouter();
  const refresh = useRefresh();
  const feeds = useFeeds();
  const fields = useFields();
  const derived = useApi<DerivedAnswer>(apiPath("derived")).data;
  const [search, setSearch] = useState("");
  const [list, setList] = useState<string | null>(null);
  const shown = fields.filter(({ label }) => label.toLowerCase().includes(search.trim().toLowerCase()));
  const remove = async (field: DerivedField) => {
    await apiDelete(apiPath(`derived/${field.key}`));
    await refresh();
    sayDone(`Derived field "${field.name}" removed`, () => apiSend(apiPath("derived"), field).then(refresh));
  };
  return (
    <div className="flex flex-col gap-3">
      <PageHead
        title="Catalogue"
        facts={derived && `${plural(fields.length, "field")}, ${formatCount(derived.fields.length)} derived`}
      >
        <Link className={buttonClasses("ember")} href={`/w/${slug}/catalogue/fields/new`}>
          <Plus aria-hidden className="size-3.5" /> New derived field
        </Link>
      </PageHead>
      <CatalogueTabs feeds={feeds.data} />
      <div className="grid grid-cols-[minmax(0,1fr)_360px] items-start gap-3">
        <Surface
          title="Fields"
          aside={
            <TextInput
              aria-label="Find a field"
              placeholder="Find a field"
              className="w-48!"
              value={search}
              onChange={(event) => setSearch(event.target.value)}
            />
          }
        >
          <table className="w-full text-sm">
            <thead className="text-left text-soft">
              <tr className="border-b border-line">
                <th className="py-1 font-normal">Field</th>
                <th className="py-1 font-normal">Coverage</th>
                <th className="py-1 text-right font-normal">Values</th>
                <th className="py-1 pl-4 font-normal">Kind</th>
              </tr>
            </thead>
            <tbody>
              {shown.map((field) => (
                <FieldRow key={field.name} field={field} />
              ))}
            </tbody>
          </table>
          {feeds.data && fields.length === 0 && (
            <EmptyNote title="No fields yet">Connect a feed under Items.</EmptyNote>
          )}
        </Surface>
        <div className="space-y-3">
          <Surface title="Derived fields">
            {derived?.fields.length === 0 && (
              <p className="text-sm text-soft">
                A derived field works its value out from others by rules you order: a size out of the title, a season
                out of the category, one spelling for a brand. It can be used in every filter, rule, split and name.
              </p>
            )}
            <ul className="divide-y divide-line">
              {derived?.fields.map((field) => (
                <li key={field.key} className="flex items-center gap-2 py-1.5">
                  <Link
                    className="min-w-0 flex-1 truncate font-semibold text-petrol hover:underline"
                    href={`/w/${slug}/catalogue/fields/${field.key}`}
                  >
                    {field.name}
                    {field.secondName && ` · ${field.secondName}`}
                  </Link>
                  <span className="text-xs text-soft num">
                    {plural(field.rules.length, "rule")}
                    {field.replaces && `, stands in for ${FIELD[field.replaces].label.toLowerCase()}`}
                  </span>
                  <button
                    type="button"
                    aria-label={`Remove ${field.name}`}
                    className="rounded p-1 text-soft hover:bg-raised"
                    onClick={() => void remove(field).catch(toastError)}
                  >
                    <Trash2 aria-hidden className="size-3.5" />
                  </button>
                </li>
              ))}
            </ul>
          </Surface>
          <Surface
            title="Look-up lists"
            aside={
              <Button look="quiet" onClick={() => setList("")}>
                <Plus aria-hidden className="size-3.5" /> New list
              </Button>
            }
          >
            {derived?.lists.length === 0 && (
              <p className="text-sm text-soft">
                What stands for what, pasted from a spreadsheet: a code and the word for it.
              </p>
            )}
            <ul className="divide-y divide-line">
              {derived?.lists.map(({ key, name, entries }) => (
                <li key={key} className="flex items-center justify-between py-1.5">
                  <button type="button" className="text-petrol hover:underline" onClick={() => setList(key)}>
                    {name}
                  </button>
                  <span className="text-xs text-soft num">{plural(entries, "entry", "entries")}</span>
                </li>
              ))}
            </ul>
          </Surface>
        </div>
      </div>
      <LookupDialog
        listKey={list}
        onClose={() => setList(null)}
        onSaved={() => {
          setList(null);
          router.refresh();
        }}
      />
    </div>
  );
}

function FieldRow({ field }: { field: FieldInfo }) {
  const { slug } = useWorkspace();
  const share = field.items === 0 ? 0 : field.filled / field.items;
  const gaps = field.items - field.filled;
  const filter = JSON.stringify({ match: "all", of: [{ field: field.name, op: "empty", value: "" }] });
  return (
    <tr className="border-b border-line/70">
      <td className="py-1.5 pr-3 font-medium">{field.label}</td>
      <td className="py-1.5">
        <span className="flex items-center gap-2 num">
          <span className="h-2 w-24 overflow-hidden rounded-full bg-line" aria-hidden>
            <span className="block h-full bg-petrol" style={{ width: `${share * 100}%` }} />
          </span>
          {gaps === 0 ? "all" : `${Math.floor(share * 1000) / 10} %`}
          {gaps > 0 && (
            <Link
              className="text-xs text-petrol hover:underline"
              href={`/w/${slug}/catalogue?filter=${encodeURIComponent(filter)}&columns=id,${field.name}`}
            >
              {formatCount(gaps)} without
            </Link>
          )}
        </span>
      </td>
      <td className="py-1.5 text-right num">{formatCount(field.distinct)}</td>
      <td className="py-1.5 pl-4 text-soft">{GROUP_WORD[field.group]}</td>
    </tr>
  );
}
