import { escapeMarkup } from "../kit/markup";
import { formatCount, formatMetric, formatShare } from "../kit/format";
import { METRICS, valueOf, type MetricKey } from "../kit/metrics";
import { CHAPTERS, windowWords, type MadeChapter } from "./chapters";
import { FAULTS, type Finding } from "./finding";
import { phraseText, type Spelling } from "./phrase";
import { openFindings, type Report } from "./report";
import { cellText, type Cell, type Column, type Table } from "./table";

/** Paper that a report is printed on. */
export const PAPERS = ["A4", "letter"] as const;
export type Paper = (typeof PAPERS)[number];

const STYLE = `
:root { --ink: #211b16; --soft: #6a5f55; --line: #e3dace; --paper: #fff; --spend: #8a5a44; --sales: #0e5a63; }
* { box-sizing: border-box; }
body { margin: 0 auto; max-width: 60rem; padding: 2.5rem 2rem 4rem; background: var(--paper); color: var(--ink);
  font: 14px/1.5 "Hanken Grotesk Variable", "Segoe UI", system-ui, sans-serif; font-variant-numeric: tabular-nums; }
h1 { font-size: 2rem; line-height: 1.15; margin: 0 0 .4rem; } h2 { font-size: 1.3rem; margin: 2.4rem 0 .2rem; } h3 { font-size: 1rem; margin: 1.2rem 0 .2rem; }
p { margin: .2rem 0 .6rem; } .soft { color: var(--soft); } .house { display: flex; align-items: center; gap: .8rem; margin-bottom: 1.6rem; } .house img { max-height: 44px; max-width: 200px; }
ol.findings { list-style: none; margin: .6rem 0; padding: 0; } ol.findings li { display: grid; grid-template-columns: 9rem 1fr; gap: 1rem; padding: .55rem 0; border-top: 1px solid var(--line); break-inside: avoid; }
ol.findings strong { display: block; } .month { text-align: right; font-weight: 600; } .month small { display: block; font-weight: 400; color: var(--soft); }
table { width: 100%; border-collapse: collapse; font-size: 12px; margin: .5rem 0 .4rem; } thead { display: table-header-group; } tr { break-inside: avoid; }
th, td { padding: .28rem .45rem; text-align: right; border-bottom: 1px solid var(--line); vertical-align: top; } th { color: var(--soft); font-weight: 600; }
th:first-child, td:first-child { text-align: left; overflow-wrap: anywhere; min-width: 9rem; } tr.sum td { font-weight: 600; border-top: 1px solid var(--ink); }
.bars { display: inline-block; width: 74px; height: 10px; position: relative; vertical-align: middle; } .bars i { position: absolute; top: 0; height: 10px; } .bars .s { right: 50%; background: var(--spend); } .bars .r { left: 50%; background: var(--sales); }
.remark { border-left: 3px solid var(--line); padding: .1rem .9rem; margin: .6rem 0; white-space: pre-wrap; }
@media print { body { max-width: none; padding: 0; font-size: 11px; } table { font-size: 9.5px; } h2 { break-after: avoid; } section > p { break-after: avoid; } }`;

/** What a finding costs or could bring a month, with its interval; null where that is not told. */
export function monthText(
  { month, money }: Finding,
  spelling: Spelling,
): { amount: string; between: string; of: string } | null {
  if (!month) return null;
  const isSure = month.low === month.high;
  return {
    amount: spelling.about(month.mean),
    between: isSure ? "" : `${spelling.about(month.low)} to ${spelling.about(month.high)}`,
    of: money === "lost" ? "lost a month" : money === "spent" ? "spent a month" : "to gain a month",
  };
}

/** What has to be done about a finding, in words. */
export function mendText({ mend }: Finding): string {
  if (mend.by === "moves")
    return `${formatCount(mend.moves)} ${mend.moves === 1 ? "move waits" : "moves wait"} in the list.`;
  if (mend.by === "place") return `${mend.words}.`;
  const who = { pages: "whoever keeps the pages", stock: "whoever keeps the stock", shop: "whoever keeps the shop" }[
    mend.who
  ];
  return `For ${who}: ${mend.words}.`;
}

function findingHtml(finding: Finding, spelling: Spelling): string {
  const month = monthText(finding, spelling);
  const { stands } = finding;
  const basis =
    stands && stands.clicks > 0
      ? ` Stands on ${formatCount(Math.round(stands.clicks))} clicks and ${formatCount(Math.round(stands.orders))} orders.`
      : "";
  return `<li><div class="month">${month ? `${escapeMarkup(month.amount)}<small>${escapeMarkup(month.of)}${month.between ? `<br>${escapeMarkup(month.between)}` : ""}</small>` : "<small>not told in money</small>"}</div>
<div><strong>${escapeMarkup(FAULTS[finding.fault])}</strong>${escapeMarkup(phraseText(finding.says, spelling))}<span class="soft"> ${escapeMarkup(basis)} ${escapeMarkup(mendText(finding))}</span></div></li>`;
}

const findingsHtml = (findings: readonly Finding[], spelling: Spelling) =>
  `<ol class="findings">${findings.map((one) => findingHtml(one, spelling)).join("\n")}</ol>`;

/** Spend share left of a spine, sales share right of it, on one scale for the table. */
function barsHtml(cells: readonly Cell[], columns: readonly Column[], most: number): string {
  const [spend, sales] = [cells[1], cells[2]];
  if (columns[1]?.kind !== "share" || columns[3]?.kind !== "gap" || typeof spend !== "number") return "";
  const width = (share: number) => `${(50 * Math.min(1, Math.max(0, share) / most) || 0).toFixed(1)}%`;
  const right = typeof sales === "number" ? `<i class="r" style="width:${width(sales)}"></i>` : "";
  return `<span class="bars" aria-hidden="true"><i class="s" style="width:${width(spend)}"></i>${right}</span>`;
}

function tableHtml({ columns, rows, rest, total }: Table, spelling: Spelling): string {
  const hasBars = columns[3]?.kind === "gap";
  const most = Math.max(0.0001, ...rows.flatMap((row) => row.slice(1, 3).filter((cell) => typeof cell === "number")));
  const line = (cells: readonly Cell[], first: string | null, kind = "") =>
    `<tr${kind}>${cells
      .map(
        (cell, at) =>
          `<td>${escapeMarkup(at === 0 && first !== null ? first : cellText(cell, columns[at]!, spelling))}</td>${at === 0 && hasBars ? `<td>${barsHtml(cells, columns, most)}</td>` : ""}`,
      )
      .join("")}</tr>`;
  const heads = columns.map(
    ({ label, of }, at) =>
      `<th scope="col">${escapeMarkup(label)}${of ? `<br><span>of ${escapeMarkup(of)}</span>` : ""}</th>${at === 0 && hasBars ? '<th scope="col">Spend | sales</th>' : ""}`,
  );
  return `<table><thead><tr>${heads.join("")}</tr></thead><tbody>${rows.map((row) => line(row, null)).join("\n")}${
    rest ? line(rest.cells, `${formatCount(rest.count)} more`) : ""
  }${total ? line(total, "Everything", ' class="sum"') : ""}</tbody></table>`;
}

function chapterHtml(chapter: MadeChapter, report: Report, spelling: Spelling): string {
  const { title, about } = CHAPTERS[chapter.key];
  const findings = openFindings(report, chapter.key);
  const remark = report.remarks[chapter.key];
  return `<section id="${chapter.key}"><h2>${escapeMarkup(title)}</h2><p class="soft">${escapeMarkup(about)}</p>${
    remark ? `<p class="remark">${escapeMarkup(remark)}</p>` : ""
  }${findings.length > 0 ? findingsHtml(findings, spelling) : ""}${
    chapter.table ? tableHtml(chapter.table, spelling) : `<p class="soft">${escapeMarkup(chapter.lacks ?? "")}</p>`
  }</section>`;
}

const WHOLE: MetricKey[] = ["cost", "revenue", "roas", "acos", "orders", "cpo", "clicks", "cpc"];

function wholeHtml({ head }: Report, spelling: Spelling): string {
  const cell = (key: MetricKey, sums: Report["head"]["total"] | null) => {
    const value = sums ? valueOf(key, sums, head.missing) : null;
    return value !== null && METRICS[key].kind === "money"
      ? spelling.money(value)
      : formatMetric(key, value, head.currency);
  };
  const rows = WHOLE.map((key) => {
    const [now, then] = [
      valueOf(key, head.total, head.missing),
      head.before && valueOf(key, head.before, head.missing),
    ];
    const change = now !== null && then ? formatShare(now / then - 1) : "–";
    return `<tr><td>${escapeMarkup(METRICS[key].label)}</td><td>${escapeMarkup(cell(key, head.total))}</td><td>${escapeMarkup(cell(key, head.before))}</td><td>${change}</td></tr>`;
  });
  return `<table><thead><tr><th scope="col">The whole</th><th scope="col">These days</th><th scope="col">As many before</th><th scope="col">Change</th></tr></thead><tbody>${rows.join("")}</tbody></table>`;
}

/**
 * A report as one file that opens without a network and prints without cut rows.
 * @param note what has to be said above it, such as how names are masked
 */
export function reportHtml(report: Report, spelling: Spelling, { paper = "A4" as Paper, note = "" } = {}): string {
  const { name, on, head, house, dismissed } = report;
  const open = openFindings(report);
  const aside = head.findings.length - open.length;
  const logo = /^data:image\/(png|jpeg|svg\+xml);base64,[A-Za-z0-9+/=]+$/.test(house.logo)
    ? `<img alt="" src="${house.logo}">`
    : "";
  return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<title>${escapeMarkup(name)}</title><style>@page { size: ${paper}; margin: 16mm 14mm; }${STYLE}</style></head>
<body><header>${house.name || logo ? `<div class="house">${logo}<span>${escapeMarkup(house.name)}</span></div>` : ""}
<h1>${escapeMarkup(name)}</h1><p class="soft">${escapeMarkup(windowWords(head))}, taken on ${escapeMarkup(on)}. Goal ${head.goal.toFixed(2)} sales for each unit of cost.</p>${note ? `<p>${escapeMarkup(note)}</p>` : ""}</header>
<main>${wholeHtml(report, spelling)}
<h2>What was found</h2><p class="soft">By money a month, the most first; with 80 % the true amount lies between the smaller figures.${
    aside > 0
      ? ` ${formatCount(aside)} put aside: ${escapeMarkup([...new Set(head.findings.filter(({ key }) => dismissed.has(key)).map(({ fault }) => FAULTS[fault]))].join("; "))}.`
      : ""
  }</p>
${open.length > 0 ? findingsHtml(open, spelling) : "<p>Nothing was found that is worth a line.</p>"}
${report.chapters.map((chapter) => chapterHtml(chapter, report, spelling)).join("\n")}</main></body></html>
`;
}
