/** For tests: what the items of the shop are. */
export const KINDS = [
  "Rake",
  "Hose",
  "Saw",
  "Spade",
  "Fork",
  "Pot",
  "Net",
  "Lamp",
  "Trug",
  "Sieve",
  "Hoe",
  "Twine",
  "Glove",
  "Bench",
];
