"use client";

import { Dialog as HeadlessDialog, DialogBackdrop, DialogPanel, DialogTitle } from "@headlessui/react";
import { X } from "lucide-react";
import type { ReactNode } from "react";

/** A dialog in the middle of the page. Escape closes it. */
export function Dialog({
  open,
  onClose,
  title,
  children,
  wide = false,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <HeadlessDialog open={open} onClose={onClose} className="relative z-40">
      <DialogBackdrop className="fixed inset-0 bg-black/40" />
      <div className="fixed inset-0 flex items-start justify-center overflow-y-auto p-6 pt-[8vh]">
        <DialogPanel
          className={`w-full rounded-lg border border-line bg-surface p-5 text-ink shadow-xl ${wide ? "max-w-4xl" : "max-w-lg"}`}
        >
          <div className="mb-3 flex items-start justify-between gap-4">
            <DialogTitle className="font-display text-lg font-semibold">{title}</DialogTitle>
            <CloseButton onClick={onClose} />
          </div>
          {children}
        </DialogPanel>
      </div>
    </HeadlessDialog>
  );
}

/** A panel at the right edge, beside what it is about. Escape closes it. */
export function SidePanel({
  open,
  onClose,
  title,
  children,
}: {
  open: boolean;
  onClose: () => void;
  title: ReactNode;
  children: ReactNode;
}) {
  return (
    <HeadlessDialog open={open} onClose={onClose} className="relative z-30">
      <DialogBackdrop className="fixed inset-0 bg-black/25" />
      <div className="fixed inset-y-0 right-0 flex w-[520px] max-w-full">
        <DialogPanel className="flex w-full flex-col border-l border-line bg-surface text-ink shadow-2xl">
          <div className="flex items-start justify-between gap-4 border-b border-line p-4">
            <DialogTitle as="div" className="min-w-0 flex-1">
              {title}
            </DialogTitle>
            <CloseButton onClick={onClose} />
          </div>
          <div className="min-h-0 flex-1 overflow-y-auto p-4" tabIndex={0} role="region" aria-label="Details">
            {children}
          </div>
        </DialogPanel>
      </div>
    </HeadlessDialog>
  );
}

function CloseButton({ onClick }: { onClick: () => void }) {
  return (
    <button type="button" onClick={onClick} aria-label="Close" className="rounded p-1 text-soft hover:bg-raised">
      <X aria-hidden className="size-4" />
    </button>
  );
}
