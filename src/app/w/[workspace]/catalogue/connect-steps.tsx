"use client";

import { useRef, useState } from "react";
import { Button } from "@/ui/button";
import { Field, TextInput } from "@/ui/field";
import type { SourceInput } from "@/server/catalogue/feed-source";
import { LoginFields, withLogin } from "./login-fields";

/** The first step of taking a feed in: a file, an address, or the watched folder. */
export function ChooseSource({
  inbox,
  onFile,
  onSource,
}: {
  inbox: string;
  onFile: (file: File) => void;
  onSource: (source: SourceInput) => void;
}) {
  const [url, setUrl] = useState("");
  const [login, setLogin] = useState({ user: "", password: "" });
  const [pattern, setPattern] = useState("");
  return (
    <div className="space-y-4">
      <DropFile onFile={onFile} />
      <div className="grid grid-cols-2 gap-5">
        <form
          onSubmit={(event) => {
            event.preventDefault();
            onSource(withLogin(url, login));
          }}
        >
          <Field label="From an address" hint="Fetched by itself from then on, at the times you set under Feed.">
            {(props) => (
              <TextInput
                {...props}
                type="url"
                placeholder="https://shop.example/feed.csv"
                value={url}
                onChange={(event) => setUrl(event.target.value)}
              />
            )}
          </Field>
          <div className="mt-2">
            <LoginFields login={login} onChange={setLogin} />
          </div>
          <Button type="submit" className="mt-2" disabled={url.trim() === ""}>
            Look at this address
          </Button>
        </form>
        <form
          onSubmit={(event) => {
            event.preventDefault();
            onSource({ kind: "folder", pattern: pattern.trim() });
          }}
        >
          <Field
            label="From the watched folder"
            hint={
              <>
                Put files into <span className="font-mono break-all">{inbox}</span>. A new one that fits the name is
                read within seconds.
              </>
            }
          >
            {(props) => (
              <TextInput
                {...props}
                placeholder="products*.csv"
                value={pattern}
                onChange={(event) => setPattern(event.target.value)}
              />
            )}
          </Field>
          <Button type="submit" className="mt-2" disabled={pattern.trim() === ""}>
            Look in the folder
          </Button>
        </form>
      </div>
    </div>
  );
}

function DropFile({ onFile }: { onFile: (file: File) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  return (
    <div
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        const file = event.dataTransfer.files[0];
        if (file) onFile(file);
      }}
      className={`rounded-lg border-2 border-dashed p-6 text-center ${over ? "border-petrol bg-petrol-wash" : "border-line"}`}
    >
      <p className="mb-1 font-semibold">Drop the feed file here</p>
      <p className="mx-auto mb-4 max-w-xl text-soft">
        CSV, TSV or any other delimiter, RSS 2.0 or Atom XML, JSON, JSON Lines, schema.org products, XLSX, Parquet; gzip
        of any of them. What it is is found out. Nothing changes before you have checked the columns.
      </p>
      <Button look="ember" onClick={() => input.current?.click()}>
        Choose a file
      </Button>
      <input
        ref={input}
        type="file"
        aria-label="Feed file"
        className="sr-only"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) onFile(file);
          event.target.value = "";
        }}
      />
    </div>
  );
}
