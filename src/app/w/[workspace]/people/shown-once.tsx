"use client";

import { Copy } from "lucide-react";
import { toast } from "sonner";
import { Button } from "@/ui/button";
import { toastError } from "../../../_lib/api";

/** Shows a link or key that is shown once, with a button that copies it. */
export function ShownOnce({ text, says }: { text: string; says: string }) {
  return (
    <div className="mt-3 rounded-md bg-petrol-wash px-3 py-2">
      <p className="text-sm">{says}</p>
      <div className="mt-1 flex items-center gap-2">
        <code className="min-w-0 flex-1 font-mono text-xs break-all">{text}</code>
        <Button
          onClick={() =>
            void navigator.clipboard
              .writeText(text)
              .then(() => toast.success("Copied"))
              .catch(toastError)
          }
        >
          <Copy aria-hidden className="size-4" /> Copy
        </Button>
      </div>
    </div>
  );
}
