"use client";

import { useState } from "react";
import type { AssetSet } from "@/core/account/records/assets";
import { Button } from "@/ui/button";
import { Dialog } from "@/ui/dialog";
import { AssetEditor } from "./asset-editor";
import type { AssetScope } from "./use-asset-look";

/** Assets to write and keep. Nothing is kept before its button is pressed. */
export function AssetDialog({
  title,
  start,
  scope,
  keep,
  onClose,
}: {
  title: string;
  start: AssetSet;
  scope: AssetScope;
  /** What the button says, and what it does; the dialog closes where that went well. */
  keep: { label: string; run: (assets: AssetSet) => Promise<boolean> };
  onClose: () => void;
}) {
  const [assets, setAssets] = useState(start);
  const [busy, setBusy] = useState(false);
  return (
    <Dialog open wide onClose={onClose} title={title}>
      <AssetEditor value={assets} scope={scope} onChange={setAssets} />
      <div className="mt-4 flex justify-end gap-2 border-t border-line pt-3">
        <Button onClick={onClose}>Cancel</Button>
        <Button
          look="ember"
          disabled={busy}
          onClick={() => {
            setBusy(true);
            void keep.run(assets).then((done) => (done ? onClose() : setBusy(false)));
          }}
        >
          {keep.label}
        </Button>
      </div>
    </Dialog>
  );
}
