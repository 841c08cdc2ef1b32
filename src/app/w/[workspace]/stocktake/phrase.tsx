import type { Spelling, Phrase as PhraseParts } from "@/core/stocktake/phrase";
import { phraseText } from "@/core/stocktake/phrase";

/** A sentence of a stocktake; what it names stands out from the words around it. */
export function Phrase({ parts, spelling }: { parts: PhraseParts; spelling: Spelling }) {
  return (
    <>
      {parts.map((part, at) =>
        typeof part === "object" && "ref" in part ? (
          <b key={at} className="font-semibold">
            {spelling.name(part.ref)}
          </b>
        ) : (
          <span key={at}>{phraseText([part], spelling)}</span>
        ),
      )}
    </>
  );
}
