import type { ReportMapping } from "@/core/results/reports/report-kinds";
import type { ReportProposal } from "@/server/results/reports/reports";
import { Select } from "@/ui/field";

/** Asks of each campaign name that is not known whether it is a known campaign's new name. */
export function RenamedCampaigns({
  fresh,
  renamed,
  onChange,
}: {
  fresh: ReportProposal["fresh"];
  renamed: ReportMapping["renamed"];
  onChange: (renamed: ReportMapping["renamed"]) => void;
}) {
  if (fresh.names.length === 0) return null;
  const set = (name: string, key: string) => {
    const { [name]: _, ...others } = renamed;
    onChange(key === "" ? others : { ...others, [name]: key });
  };
  return (
    <fieldset className="rounded-md border border-line p-3">
      <legend className="px-1 font-semibold">Campaign names seen for the first time</legend>
      <p className="mb-2 text-soft">
        The file has no campaign IDs. If one of these is the new name of a campaign you had before, say so: its days
        would count twice otherwise.
      </p>
      <div className="grid max-h-48 grid-cols-[1fr_18rem] items-center gap-x-3 gap-y-1 overflow-y-auto">
        {fresh.names.map((name) => (
          <label key={name} className="contents">
            <span className="truncate" title={name}>
              {name}
            </span>
            <Select
              aria-label={`${name} is`}
              className="h-7!"
              value={renamed[name] ?? ""}
              onChange={(event) => set(name, event.target.value)}
            >
              <option value="">a new campaign</option>
              {fresh.known.map((one) => (
                <option key={one.key} value={one.key}>
                  new name of {one.name}
                </option>
              ))}
            </Select>
          </label>
        ))}
      </div>
    </fieldset>
  );
}
