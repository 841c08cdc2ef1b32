"use client";

import { keepPreviousData } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useParams, useRouter } from "next/navigation";
import { useState } from "react";
import { toast } from "sonner";
import { derivedColumn, REPLACEABLE, type DerivedField, type DerivedRule } from "@/core/catalogue/derive/derived-field";
import { FIELD } from "@/core/catalogue/fields";
import { formatCount } from "@/core/kit/format";
import type { DerivedPreviewView } from "@/server/catalogue/derived-preview";
import { Button } from "@/ui/button";
import { versionOf } from "@/core/kit/version-of";
import { Field, Select, TextInput } from "@/ui/field";
import { EmptyNote, ErrorNote, Loading } from "@/ui/notes";
import { PageHead, Surface } from "@/ui/page";
import { useSettled } from "@/ui/use-settled";
import { ApiError, apiSend, toastError, toastMeanwhile, useApi, useAsk } from "../../../../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../../../../_lib/workspace";
import { CatalogueTabs } from "../../tabs";
import { useFeeds, useFields } from "../../use-feeds";
import { fieldChoices } from "../../where-builder";
import { keyFor, LookupDialog } from "../lookup-dialog";
import { PreviewSide } from "../preview-side";
import { RuleCard } from "../rule-card";

const BLANK_OUTPUT: DerivedRule["then"][number] = { parts: [{ kind: "field", field: "title" }], by: " ", steps: [] };
const BLANK_RULE: DerivedRule = {
  when: { match: "all", of: [{ field: "title", op: "has-word", value: "" }] },
  then: [{ parts: [{ kind: "text", text: "" }], by: " ", steps: [] }],
};
const BLANK: DerivedField = {
  ...{ key: "new-field", name: "", kind: "text", secondName: "", replaces: null, rules: [BLANK_RULE] },
};

interface DerivedAnswer {
  fields: DerivedField[];
  lists: { key: string; name: string; entries: number }[];
}

/** The rule builder: a derived field's rules beside what they do to real items. */
export default function DerivedFieldPage() {
  const key = String(useParams()["key"]);
  const feeds = useFeeds();
  const derived = useApi<DerivedAnswer>(useApiPath()("derived"));
  const known = derived.data?.fields.find((field) => field.key === key);
  return (
    <div className="flex flex-col gap-3">
      {derived.isPending && <Loading what="the field" />}
      {derived.data && !known && key !== "new" && (
        <>
          <PageHead title="Catalogue" />
          <CatalogueTabs feeds={feeds.data} />
          <EmptyNote title="This derived field is not there">It may have been removed.</EmptyNote>
        </>
      )}
      {derived.data && (known || key === "new") && (
        <Builder key={key} known={known} all={derived.data} tabs={<CatalogueTabs feeds={feeds.data} />} />
      )}
    </div>
  );
}

/** The field with as many outputs in each rule as it has forms. */
function withForms(field: DerivedField): DerivedField {
  const forms = field.secondName === "" ? 1 : 2;
  const rules = field.rules.map((rule) => ({
    ...rule,
    then: Array.from({ length: forms }, (_, i) => rule.then[i] ?? BLANK_OUTPUT),
  }));
  return { ...field, rules };
}

function Builder({ known, all, tabs }: { known: DerivedField | undefined; all: DerivedAnswer; tabs: React.ReactNode }) {
  const { slug } = useWorkspace();
  const apiPath = useApiPath();
  const router = useRouter();
  const refresh = useRefresh();
  const [field, setField] = useState<DerivedField>(known ?? BLANK);
  // As it was when this page opened, whatever is read anew since.
  const [seen] = useState(() => versionOf(known ?? null));
  const [hasSecond, setSecond] = useState((known?.secondName ?? "") !== "");
  const [lookUp, setLookUp] = useState("");
  const [list, setList] = useState<string | null>(null);
  const infos = useFields();
  // A field can't read itself; others it may build on.
  const own = [derivedColumn(field.key), derivedColumn(field.key, 1)];
  const fields = fieldChoices(infos, false).filter(({ name }) => !own.includes(name));
  const preview = usePreview(field, lookUp);
  const change = (next: Partial<DerivedField>) => setField((old) => withForms({ ...old, ...next }));
  const setRule = (at: number, rule: DerivedRule | null) =>
    change({ rules: field.rules.flatMap((old, i) => (i !== at ? [old] : rule === null ? [] : [rule])) });
  const moveRule = (at: number, by: -1 | 1) => {
    const rules = [...field.rules];
    const [rule] = rules.splice(at, 1);
    rules.splice(at + by, 0, rule!);
    change({ rules });
  };
  const save = async (since = `?since=${seen}`) => {
    const saved = { ...field, key: known?.key ?? freshKey(field.name, all.fields), name: field.name.trim() };
    await apiSend(apiPath(`derived${since}`), saved);
    toast.success(`Derived field "${saved.name}" kept; the catalogue is being worked out anew`);
    await refresh();
    router.push(`/w/${slug}/catalogue/fields`);
  };
  return (
    <>
      <PageHead title={known ? known.name : "New derived field"}>
        <Button onClick={() => router.push(`/w/${slug}/catalogue/fields`)}>Leave it</Button>
        <Button
          look="ember"
          disabled={field.name.trim() === "" || field.rules.length === 0}
          onClick={() =>
            void save().catch((error: unknown) => toastMeanwhile(error, () => void save("").catch(toastError)))
          }
        >
          Keep the field
        </Button>
      </PageHead>
      {tabs}
      <div className="grid grid-cols-[minmax(0,1fr)_340px] items-start gap-3">
        <div className="space-y-3">
          <Surface>
            <div className="grid grid-cols-3 gap-3">
              <Field label="Name">
                {(props) => (
                  <TextInput
                    {...props}
                    autoFocus={!known}
                    placeholder="Hose length"
                    value={field.name}
                    onChange={(event) => change({ name: event.target.value })}
                  />
                )}
              </Field>
              <Field label="Its values are">
                {(props) => (
                  <Select
                    {...props}
                    value={field.kind}
                    onChange={(event) => change({ kind: event.target.value as DerivedField["kind"] })}
                  >
                    <option value="text">text</option>
                    <option value="number">numbers</option>
                    <option value="money">money</option>
                  </Select>
                )}
              </Field>
              <Field label="Stands in for">
                {(props) => (
                  <Select
                    {...props}
                    disabled={field.kind !== "text"}
                    value={field.replaces ?? ""}
                    onChange={(event) => change({ replaces: (event.target.value || null) as DerivedField["replaces"] })}
                  >
                    <option value="">nothing: a field of its own</option>
                    {REPLACEABLE.map((key) => (
                      <option key={key} value={key}>
                        {FIELD[key].label}, everywhere
                      </option>
                    ))}
                  </Select>
                )}
              </Field>
            </div>
            <div className="mt-3">
              {hasSecond ? (
                <Field
                  label="Name of its second form"
                  hint="One attribute said twice: the code a channel wants, and the word a shopper reads."
                >
                  {(props) => (
                    <TextInput
                      {...props}
                      className="w-72!"
                      value={field.secondName}
                      onChange={(event) => change({ secondName: event.target.value })}
                    />
                  )}
                </Field>
              ) : (
                <Button look="quiet" onClick={() => setSecond(true)}>
                  <Plus aria-hidden className="size-3.5" /> Second form
                </Button>
              )}
            </div>
          </Surface>
          <p className="text-sm text-soft">
            Rules are tried from the top; the first that holds and gives a value wins. Words are taken whole: “rose”
            does not find “primrose”.
          </p>
          {field.rules.map((_, no) => (
            <RuleCard
              key={no}
              no={no}
              field={field}
              fields={fields}
              lists={all.lists}
              preview={preview.data}
              onChange={(rule) => setRule(no, rule)}
              onMove={(by) => moveRule(no, by)}
            />
          ))}
          <div className="flex gap-2">
            <Button onClick={() => change({ rules: [...field.rules, BLANK_RULE] })}>
              <Plus aria-hidden className="size-3.5" /> Rule
            </Button>
            <Button
              onClick={() =>
                change({
                  rules: [...field.rules, { when: { match: "all", of: [] }, then: [{ ...BLANK_OUTPUT }] }],
                })
              }
            >
              <Plus aria-hidden className="size-3.5" /> Rule for all the rest
            </Button>
            <Button look="quiet" onClick={() => setList("")}>
              New look-up list
            </Button>
          </div>
        </div>
        <div className="sticky top-0 space-y-3">
          {preview.error instanceof ApiError && <ErrorNote error={preview.error.failure} />}
          <PreviewSide preview={preview.data} lookUp={lookUp} onLookUp={setLookUp} />
          {preview.data && (
            <p className="text-xs text-soft num">Worked out on all {formatCount(preview.data.rows)} items.</p>
          )}
        </div>
      </div>
      <LookupDialog listKey={list} onClose={() => setList(null)} onSaved={() => setList(null)} />
    </>
  );
}

function freshKey(name: string, fields: DerivedField[]): string {
  const base = keyFor(name).slice(0, 36);
  const taken = new Set(fields.map(({ key }) => key));
  for (let n = 1; ; n++) {
    const key = n === 1 ? base : `${base}-${n}`;
    if (!taken.has(key) && key !== "new") return key;
  }
}

/** What the field as it stands would do; asked a moment after the last change. */
function usePreview(field: DerivedField, lookUp: string) {
  const apiPath = useApiPath();
  const body = {
    // A name is not needed to see what rules do.
    field: { ...field, name: field.name.trim() || "this field" },
    items: lookUp
      .split(/[\s,;]+/)
      .filter(Boolean)
      .slice(0, 50),
  };
  const settled = useSettled(JSON.stringify(body));
  return useAsk<DerivedPreviewView>(apiPath("derived/preview"), JSON.parse(settled), {
    placeholderData: keepPreviousData,
  });
}
