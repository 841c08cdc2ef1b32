import { randomFrom } from "../kit/random";

const GROUNDS = ["#efe4d2", "#e3ead9", "#dfe8e6", "#f1ddcf", "#e8e1ee"];
const INKS = ["#0e5a63", "#7a4a21", "#4c6b2f", "#a3482a", "#3c5a73"];

/** A small drawing (SVG text) for an item of the demo: a pot, leaf, tool or tin in seeded shape and colour. */
export function drawItem(id: string): string {
  // Variants of a family share all but the last digit of their ID, so they look alike.
  const random = randomFrom("drawing", id.slice(0, -1));
  const pick = <T>(list: T[]) => list[Math.floor(random() * list.length)] as T;
  const ground = pick(GROUNDS);
  const ink = pick(INKS);
  const second = pick(INKS);
  const height = 22 + Math.floor(random() * 14);
  const width = 16 + Math.floor(random() * 16);
  const x = 32 - width / 2;
  const y = 54 - height;
  const shapes = [
    `<path d="M${x} ${y}h${width}l-4 ${height}h-${width - 8}z" fill="${ink}"/><rect x="${x - 2}" y="${y - 4}" width="${width + 4}" height="5" rx="1.5" fill="${second}"/>`,
    `<path d="M32 54C${x} ${y + 8} ${x + 4} ${y} 32 ${y - 6}c${width / 2} 8 ${width / 2} 26 0 ${height + 6}z" fill="${ink}"/><path d="M32 58V${y}" stroke="${second}" stroke-width="2"/>`,
    `<rect x="30" y="10" width="4" height="30" rx="2" fill="${second}"/><path d="M${x} 38h${width}v8q0 12-${width / 2} 12t-${width / 2}-12z" fill="${ink}"/>`,
    `<rect x="${x}" y="${y}" width="${width}" height="${height}" rx="4" fill="${ink}"/><rect x="${x + 3}" y="${y + 6}" width="${width - 6}" height="8" rx="2" fill="${ground}"/><circle cx="32" cy="${y - 3}" r="4" fill="${second}"/>`,
  ];
  return `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 64"><rect width="64" height="64" rx="8" fill="${ground}"/>${pick(shapes)}</svg>`;
}
