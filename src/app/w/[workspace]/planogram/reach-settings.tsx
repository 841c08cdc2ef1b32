"use client";

import { GROUNDS, REACHES, RINGS, type Ground, type ReachName, type Ring } from "@/core/account/records/reach";
import { Checkbox } from "@/ui/field";

const ALL_RINGS = Object.keys(RINGS) as Ring[];

/** Which automatic reaches are used: a ring a row, a ground a column. The last one can't be left out. */
export function ReachSettings({ reach, onChange }: { reach: ReachName[]; onChange: (reach: ReachName[]) => void }) {
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-medium">Reaches</legend>
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-xs text-soft">
            <th className="py-1 font-normal">Ring around the item</th>
            {Object.values(GROUNDS).map((ground) => (
              <th key={ground} className="py-1 font-normal first-letter:uppercase">
                {ground}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {ALL_RINGS.map((ring) => (
            <tr key={ring} className="border-t border-line">
              <th className="py-1 pr-2 text-left font-normal">
                <span className="first-letter:uppercase">{ring}</span>
                <span className="block text-xs text-soft">{RINGS[ring]}</span>
              </th>
              {(Object.keys(GROUNDS) as Ground[]).map((ground) => {
                const one = `${ground}-${ring}` as const;
                return (
                  <td key={ground} className="py-1">
                    <Checkbox
                      aria-label={`${GROUNDS[ground]}, ${ring}`}
                      label=""
                      checked={reach.includes(one)}
                      disabled={reach.length === 1 && reach.includes(one)}
                      onChange={({ target }) =>
                        onChange(REACHES.filter((other) => (other === one ? target.checked : reach.includes(other))))
                      }
                    />
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </fieldset>
  );
}
