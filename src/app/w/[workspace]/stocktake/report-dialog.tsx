"use client";

import { useRef, useState } from "react";
import { toast } from "sonner";
import { CHAPTERS, type ChapterKey } from "@/core/stocktake/chapters";
import { PAPERS, type Paper } from "@/core/stocktake/html";
import type { StocktakeView } from "@/server/stocktake/stocktakes";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { Checkbox, ChoiceSelect, Field, TextInput } from "@/ui/field";
import { apiBytes, apiSend, toastError } from "../../../_lib/api";
import { saveFile } from "../../../_lib/save-file";
import { useApiPath, useRefresh } from "../../../_lib/workspace";

/** The report: which chapters in which order, how it is headed, masked or not; printed, or as a file. */
export function ReportDialog({ view, onClose }: { view: StocktakeView; onClose: () => void }) {
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [chapters, setChapters] = useState(view.chapters.map(({ key, isLeftOut }) => ({ key, isIn: !isLeftOut })));
  const [name, setName] = useState(view.style.name);
  const [logo, setLogo] = useState(view.style.logo);
  const [isMasked, setMasked] = useState(false);
  const [paper, setPaper] = useState<Paper>("A4");
  const [html, setHtml] = useState<string | null>(null);
  const frame = useRef<HTMLIFrameElement>(null);

  const keep = async () => {
    const order = chapters.filter(({ isIn }) => isIn).map(({ key }) => key);
    await apiSend(apiPath(`stocktakes/${view.id}`), { chapters: order }, "PUT");
    if (name !== view.style.name || logo !== view.style.logo)
      await apiSend(apiPath("stocktake-style"), { name, logo }, "PUT");
    await refresh();
  };
  const file = (format: "html" | "xlsx") => {
    const query = new URLSearchParams({ format, masked: String(isMasked), paper });
    return apiBytes(apiPath(`stocktakes/${view.id}/file?${query}`));
  };
  const attempt = async (work: () => Promise<void>) => {
    try {
      await keep();
      await work();
    } catch (error) {
      toastError(error);
    }
  };
  const save = (format: "html" | "xlsx") =>
    attempt(async () => {
      saveFile(`stocktake-${view.id}${isMasked ? "-masked" : ""}.${format}`, await file(format));
      toast.success(isMasked ? "Written and searched: nothing masked stands in it." : "Written.");
    });
  const print = () => attempt(async () => setHtml(new TextDecoder().decode(await file("html"))));
  const readLogo = (picked: File | undefined) => {
    if (!picked) return;
    const reader = new FileReader();
    reader.onload = () => setLogo(String(reader.result));
    reader.readAsDataURL(picked);
  };
  return (
    <Dialog open onClose={onClose} title="The report" wide>
      <div className="grid gap-5 md:grid-cols-2">
        <ChapterOrder chapters={chapters} onChange={setChapters} />
        <div className="space-y-3">
          <Field label="Headed by" hint="A name above the report; left out where it is masked.">
            {(props) => (
              <TextInput {...props} maxLength={120} value={name} onChange={(event) => setName(event.target.value)} />
            )}
          </Field>
          <Field label="Picture beside it" hint={logo ? "A picture is kept." : "PNG, JPEG or SVG, up to 200 kB."}>
            {(props) => (
              <input
                {...props}
                type="file"
                accept="image/png,image/jpeg,image/svg+xml"
                className="text-sm"
                onChange={(event) => readLogo(event.target.files?.[0])}
              />
            )}
          </Field>
          {logo && (
            <Button look="quiet" onClick={() => setLogo("")}>
              Leave the picture out
            </Button>
          )}
          <Field label="Paper">
            {(props) => <ChoiceSelect {...props} choices={PAPERS} value={paper} onChange={setPaper} />}
          </Field>
          <Checkbox
            label="Mask names, IDs, addresses and brands, and scale amounts"
            checked={isMasked}
            onChange={(event) => setMasked(event.target.checked)}
          />
          <p className="text-sm text-soft">
            A masked report says “Item 14” and “Brand C”, the same throughout and in later ones; what stands for what is
            kept here only. The finished file is searched for anything masked before you get it.
          </p>
          <div className="flex flex-wrap gap-2">
            <Button look="ember" onClick={() => void print()}>
              Read and print
            </Button>
            <Button onClick={() => void save("html")}>Save as HTML</Button>
            <Button onClick={() => void save("xlsx")}>Save as XLSX</Button>
          </div>
        </div>
      </div>
      {html !== null && (
        <div className="mt-4 space-y-2">
          <iframe
            ref={frame}
            title="The report as it prints"
            srcDoc={html}
            className="h-[60vh] w-full rounded-md border border-line bg-white"
          />
          <div className="flex justify-end">
            <Button look="ember" onClick={() => frame.current?.contentWindow?.print()}>
              Print …
            </Button>
          </div>
        </div>
      )}
    </Dialog>
  );
}

interface Chosen {
  key: ChapterKey;
  isIn: boolean;
}

function ChapterOrder({ chapters, onChange }: { chapters: Chosen[]; onChange: (chapters: Chosen[]) => void }) {
  const move = (at: number, by: number) => {
    const next = [...chapters];
    const [one] = next.splice(at, 1);
    next.splice(at + by, 0, one!);
    onChange(next);
  };
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-semibold">Chapters, in their order</legend>
      <ol className="max-h-[46vh] divide-y divide-line overflow-y-auto rounded-md border border-line">
        {chapters.map(({ key, isIn }, at) => (
          <li key={key} className="flex items-center justify-between px-2 py-0.5">
            <Checkbox
              label={CHAPTERS[key].title}
              checked={isIn}
              onChange={(event) =>
                onChange(chapters.map((one) => (one.key === key ? { key, isIn: event.target.checked } : one)))
              }
            />
            <span>
              <Button
                look="quiet"
                className="px-1.5"
                disabled={at === 0}
                aria-label={`Move ${CHAPTERS[key].title} up`}
                onClick={() => move(at, -1)}
              >
                ↑
              </Button>
              <Button
                look="quiet"
                className="px-1.5"
                disabled={at === chapters.length - 1}
                aria-label={`Move ${CHAPTERS[key].title} down`}
                onClick={() => move(at, 1)}
              >
                ↓
              </Button>
            </span>
          </li>
        ))}
      </ol>
    </fieldset>
  );
}
