/** An hour of the day with its fraction as a clock shows it. */
export function clock(hour: number): string {
  const minutes = Math.min(24 * 60, Math.round(hour * 60));
  return `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
}
