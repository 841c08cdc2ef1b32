"use client";

import { Command } from "cmdk";
import { useRouter } from "next/navigation";
import { useTheme } from "next-themes";
import { useEffect, useState } from "react";
import { findGuides, type Guide } from "@/core/guide/guide";
import { Dialog } from "@/ui/dialog";
import type { ItemLine } from "@/server/across/catalogue/items";
import { apiSend, toastError, useApi } from "../../_lib/api";
import { useApiPath, useRefresh, useWorkspace } from "../../_lib/workspace";
import { GUIDE_PATH } from "./guide-panel";
import { STAGES } from "./stages";

const ROW = "flex cursor-pointer justify-between gap-3 rounded-md px-3 py-1.5 data-[selected=true]:bg-petrol-wash";

/** Search over items and everything one can do; Ctrl K opens it. */
export function CommandPalette({
  open,
  onOpenChange,
  onGuide,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  /** Opens a guide beside the page. */
  onGuide: (key: string) => void;
}) {
  const { slug } = useWorkspace();
  const router = useRouter();
  const { resolvedTheme, setTheme } = useTheme();
  const apiPath = useApiPath();
  const refresh = useRefresh();
  const [text, setText] = useState("");
  const found = useApi<{ items: ItemLine[]; total: number }>(
    open && text.trim().length > 1 ? apiPath(`items?limit=8&q=${encodeURIComponent(text.trim())}`) : null,
  );
  const guides = useApi<Guide[]>(open ? GUIDE_PATH : null, { staleTime: Infinity });
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "k") {
        event.preventDefault();
        onOpenChange(true);
      }
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [onOpenChange]);

  const close = () => {
    onOpenChange(false);
    setText("");
  };
  const go = (path: string) => () => {
    close();
    router.push(`/w/${slug}${path}`);
  };
  const run = (days: number) => () => {
    close();
    apiSend(apiPath("market/run"), { days }).then(refresh).catch(toastError);
  };
  const commands: [label: string, action: () => void][] = [
    ["Go to Today", go("")],
    ...STAGES.flatMap(({ stages }) =>
      stages.map(({ path, label }) => [`Go to ${label}`, go(`/${path}`)] as [string, () => void]),
    ),
    ["Upload a feed", go("/catalogue?upload=true")],
    ["Plan campaigns", go("/planogram?plan=new")],
    ["Run the test market for 7 days", run(7)],
    ["Run the test market for 30 days", run(30)],
    ["Switch between light and dark", () => setTheme(resolvedTheme === "dark" ? "light" : "dark")],
  ];
  return (
    <Dialog open={open} onClose={close} title="Search and commands">
      <Command label="Search and commands" shouldFilter={false}>
        <Command.Input
          autoFocus
          value={text}
          onValueChange={setText}
          placeholder="An item's title or ID, or what to do"
          className="h-9 w-full rounded-md border border-line bg-paper px-3"
        />
        <Command.List className="mt-2 max-h-80 overflow-y-auto">
          <Command.Empty className="px-3 py-4 text-soft">Nothing found.</Command.Empty>
          {commands
            .filter(([label]) => label.toLowerCase().includes(text.trim().toLowerCase()))
            .map(([label, action]) => (
              <Command.Item key={label} value={label} onSelect={action} className={ROW}>
                {label}
              </Command.Item>
            ))}
          {findGuides(guides.data ?? [], text).map(({ key, title }) => (
            <Command.Item
              key={key}
              value={`guide ${key}`}
              onSelect={() => {
                close();
                onGuide(key);
              }}
              className={ROW}
            >
              <span className="truncate">{title}</span>
              <span className="text-xs text-soft">Guide</span>
            </Command.Item>
          ))}
          {(found.data?.items ?? []).map((item) => (
            <Command.Item
              key={item.id}
              value={`item ${item.id}`}
              onSelect={go(`/catalogue?item=${encodeURIComponent(item.id)}`)}
              className={ROW}
            >
              <span className="truncate">{item.title}</span>
              <span className="font-mono text-xs text-soft">{item.id}</span>
            </Command.Item>
          ))}
        </Command.List>
      </Command>
    </Dialog>
  );
}
