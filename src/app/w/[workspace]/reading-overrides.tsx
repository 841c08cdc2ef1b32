import { useState } from "react";
import { DELIMITERS, ENCODINGS, type FeedFormat } from "@/core/catalogue/detect";
import type { ReadingChoice } from "@/server/catalogue/reading/open-feed";
import { Select, TextInput } from "@/ui/field";

const DELIMITER_NAMES: Record<string, string> = {
  ",": "commas",
  ";": "semicolons",
  "\t": "tabs",
  "|": "bars",
  "^": "carets",
  "~": "tildes",
};

const FORMAT_NAMES: Record<FeedFormat, string> = {
  delimited: "parted by",
  xml: "XML",
  json: "JSON",
  "json-lines": "JSON Lines",
  xlsx: "XLSX workbook",
  parquet: "Parquet",
};

/** What a format calls the places that it can hold rows in. */
const PART_NAMES: Partial<Record<FeedFormat, string>> = { xlsx: "Sheet", xml: "Items are", json: "List" };

/** What was found out about a file, and what was chosen instead. */
export interface FoundFile {
  format: FeedFormat;
  encoding: string | null;
  delimiter: string | null;
  compressed?: boolean;
  parts: string[];
  part: string | null;
  headerRow: number | null;
  reading: ReadingChoice;
}

function encodingName(encoding: string): string {
  return encoding === "windows-1252" ? "Latin-1" : encoding.toUpperCase();
}

/** How a file is read, in a few words. */
export function howRead({ format, delimiter, encoding, part, parts, headerRow, compressed }: FoundFile): string {
  return [
    format === "delimited" ? `parted by ${DELIMITER_NAMES[delimiter ?? ","] ?? delimiter}` : FORMAT_NAMES[format],
    ...(encoding ? [encodingName(encoding)] : []),
    ...(part && parts.length > 1 ? [`${PART_NAMES[format]?.toLowerCase() ?? "part"} ${part}`] : []),
    ...(headerRow !== null && headerRow > 1 ? [`header in row ${headerRow}`] : []),
    ...(compressed ? ["gzip"] : []),
  ].join(", ");
}

/** The query by which a file is looked at again with other choices. */
export function readingQuery(reading: ReadingChoice): Record<string, string> {
  return {
    encoding: reading.encoding ?? "",
    delimiter: reading.delimiter === "\t" ? "tab" : (reading.delimiter ?? ""),
    part: reading.part ?? "",
    headerRow: reading.headerRow === null ? "" : String(reading.headerRow),
  };
}

/** Lets a person say how a file is read, where it was found out wrongly: the same for every format. */
export function ReadingOverrides({
  found,
  onReadAgain,
}: {
  found: FoundFile;
  onReadAgain: (reading: ReadingChoice) => void;
}) {
  const { reading, format, parts, headerRow } = found;
  return (
    <div className="flex flex-wrap items-center gap-2">
      {found.encoding !== null && (
        <Select
          aria-label="Encoding"
          className="w-44!"
          value={reading.encoding ?? ""}
          onChange={(event) =>
            onReadAgain({ ...reading, encoding: (event.target.value || null) as ReadingChoice["encoding"] })
          }
        >
          <option value="">Encoding as found</option>
          {ENCODINGS.map((encoding) => (
            <option key={encoding} value={encoding}>
              {encodingName(encoding)}
            </option>
          ))}
        </Select>
      )}
      {format === "delimited" && (
        <Select
          aria-label="Delimiter"
          className="w-44!"
          value={reading.delimiter ?? ""}
          onChange={(event) => onReadAgain({ ...reading, delimiter: event.target.value || null })}
        >
          <option value="">Delimiter as found</option>
          {DELIMITERS.map((delimiter) => (
            <option key={delimiter} value={delimiter}>
              {DELIMITER_NAMES[delimiter]}
            </option>
          ))}
        </Select>
      )}
      {parts.length > 1 && (
        <Select
          aria-label={PART_NAMES[format] ?? "Part"}
          className="w-44!"
          value={found.part ?? ""}
          onChange={(event) => onReadAgain({ ...reading, part: event.target.value })}
        >
          {parts.map((part) => (
            <option key={part}>{part}</option>
          ))}
        </Select>
      )}
      {headerRow !== null && (
        <HeaderRow key={headerRow} value={headerRow} onChange={(row) => onReadAgain({ ...reading, headerRow: row })} />
      )}
    </div>
  );
}

function HeaderRow({ value, onChange }: { value: number; onChange: (row: number | null) => void }) {
  const [text, setText] = useState(String(value));
  const take = () => {
    const row = Number(text);
    if (text !== String(value)) onChange(Number.isInteger(row) && row >= 1 ? Math.min(1000, row) : null);
  };
  return (
    <label className="flex items-center gap-1.5 text-soft">
      Header in row
      <TextInput
        inputMode="numeric"
        className="w-14!"
        value={text}
        onChange={(event) => setText(event.target.value)}
        onBlur={take}
        onKeyDown={(event) => {
          if (event.key !== "Enter") return;
          event.preventDefault();
          take();
        }}
      />
    </label>
  );
}
