"use client";

import { useState } from "react";
import { formatCount } from "@/core/kit/format";
import { formatMoney } from "@/core/kit/money";
import { listEntries } from "@/core/kit/words";
import type { RateCard } from "@/core/channel/rate-card";
import type { RateCards } from "@/server/targets/rate-cards";
import { Button } from "@/ui/button";
import { Select } from "@/ui/field";
import { Surface } from "@/ui/page";
import { apiSend, toastError } from "../../../../_lib/api";
import { useApiPath, useWorkspace } from "../../../../_lib/workspace";

type What = "keywords" | "items" | "listings";

/** The channel's estimates for what a person types or pastes. */
export function RateCardBox() {
  const apiPath = useApiPath();
  const { currency } = useWorkspace();
  const [what, setWhat] = useState<What>("keywords");
  const [text, setText] = useState("");
  const [lines, setLines] = useState<{ name: string; card: RateCard | null }[]>([]);
  const ask = async () => {
    const entries = listEntries(text);
    const body =
      what === "keywords"
        ? { keywords: entries.map((entry) => ({ text: entry, match: "broad" })) }
        : { [what]: entries };
    try {
      const answer = await apiSend<RateCards>(apiPath("rate-card"), body);
      setLines([
        ...answer.keywords.map(({ text: name, card }) => ({ name, card })),
        ...answer.items.map(({ id, title, card }) => ({ name: title === "" ? id : `${title} (${id})`, card })),
        ...answer.listings.map(({ listing, card }) => ({ name: listing, card })),
      ]);
    } catch (error) {
      toastError(error);
    }
  };
  return (
    <Surface title="What a click costs">
      <form
        className="flex items-start gap-2 text-sm"
        onSubmit={(event) => {
          event.preventDefault();
          void ask();
        }}
      >
        <Select
          aria-label="What to estimate"
          className="w-32!"
          value={what}
          onChange={(event) => setWhat(event.target.value as What)}
        >
          <option value="keywords">Keywords</option>
          <option value="items">Item IDs</option>
          <option value="listings">Listings</option>
        </Select>
        <textarea
          aria-label="One a line"
          placeholder="One a line, or pasted from a spreadsheet"
          rows={2}
          className="flex-1 rounded-md border border-line bg-surface px-2 py-1"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <Button type="submit" disabled={text.trim() === ""}>
          Estimate
        </Button>
      </form>
      {lines.length > 0 && (
        <div className="mt-2 max-h-48 overflow-y-auto" tabIndex={0} role="region" aria-label="Estimates">
          <table className="w-full text-sm num" aria-label="Rate card">
            <thead>
              <tr className="text-left text-soft">
                <th className="font-normal">What</th>
                <th className="text-right font-normal">Low</th>
                <th className="text-right font-normal">Typical</th>
                <th className="text-right font-normal">High</th>
                <th className="text-right font-normal">Views a month</th>
              </tr>
            </thead>
            <tbody>
              {lines.map(({ name, card }, i) => (
                <tr key={`${name}/${i}`} className="border-t border-line/60">
                  <td className="py-0.5">{name}</td>
                  {card ? (
                    <>
                      {[card.low, card.typical, card.high].map((cpc, at) => (
                        <td key={at} className="text-right">
                          {cpc === null ? "–" : formatMoney(cpc, currency)}
                        </td>
                      ))}
                      <td className="text-right">
                        {card.monthlyViews === null ? "–" : formatCount(card.monthlyViews)}
                      </td>
                    </>
                  ) : (
                    <td colSpan={4} className="text-right text-soft">
                      –, not known: nobody searches so, or nobody told
                    </td>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </Surface>
  );
}
