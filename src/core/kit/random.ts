/**
 * Seeded random numbers: the same seed gives the same stream on every machine.
 * Generator: sfc32 (Chris Doty-Humphrey, PractRand); seeding by a 32-bit FNV-1a hash with a final mix.
 */
export type Random = () => number;

/** A 32-bit hash of a text (FNV-1a, Fowler, Noll and Vo), mixed so that near texts differ everywhere. */
export function hashText(text: string, start = 0x811c9dc5): number {
  let hash = start >>> 0;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
  return mix(hash);
}

/** Spreads the bits of a 32-bit hash (finaliser of MurmurHash3, Appleby), so that near values differ everywhere. */
export function mix(value: number): number {
  let h = value | 0;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** A generator of uniform numbers in [0, 1) for a seed made of texts and numbers. */
export function randomFrom(...seed: (string | number)[]): Random {
  const text = seed.join("\u001f");
  let a = hashText(text);
  let b = hashText(text, a);
  let c = hashText(text, b);
  let counter = 1;
  const next = () => {
    const t = (((a + b) | 0) + counter) | 0;
    counter = (counter + 1) | 0;
    a = b ^ (b >>> 9);
    b = (c + (c << 3)) | 0;
    c = ((c << 21) | (c >>> 11)) + t;
    c |= 0;
    return (t >>> 0) / 4294967296;
  };
  for (let i = 0; i < 12; i++) next();
  return next;
}

/** A standard normal draw (Box and Muller 1958). */
export function normal(random: Random): number {
  const u = 1 - random();
  return Math.sqrt(-2 * Math.log(u)) * Math.cos(2 * Math.PI * random());
}

/** A Poisson draw with the given mean. Inversion below 30, above it the normal approximation rounded and kept at 0 or more. */
export function poisson(random: Random, mean: number): number {
  if (mean <= 0) return 0;
  if (mean >= 30) return Math.max(0, Math.round(mean + Math.sqrt(mean) * normal(random)));
  let product = Math.exp(-mean);
  let sum = product;
  const u = random();
  let count = 0;
  while (u > sum && count < 200) {
    count++;
    product *= mean / count;
    sum += product;
  }
  return count;
}

/** A binomial draw: `trials` with chance `p`. By single trials when few, else Poisson or normal, never above `trials`. */
export function binomial(random: Random, trials: number, p: number): number {
  if (trials <= 0 || p <= 0) return 0;
  if (p >= 1) return trials;
  if (trials <= 16) {
    let hits = 0;
    for (let i = 0; i < trials; i++) if (random() < p) hits++;
    return hits;
  }
  const mean = trials * p;
  if (mean < 30) return Math.min(trials, poisson(random, mean));
  const draw = Math.round(mean + Math.sqrt(mean * (1 - p)) * normal(random));
  return Math.min(trials, Math.max(0, draw));
}
