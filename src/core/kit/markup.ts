const ESCAPES: Record<string, string> = { "&": "&amp;", "<": "&lt;", ">": "&gt;", '"': "&quot;" };

/** A text as it stands in XML or HTML, between tags or in an attribute within double quotes. What XML 1.0 has no way to write is left out. */
export function escapeMarkup(text: string): string {
  return text
    .replace(/[\u0000-\u0008\u000B\u000C\u000E-\u001F\uFFFE\uFFFF]/g, "")
    .replace(/[&<>"]/g, (sign) => ESCAPES[sign]!);
}
