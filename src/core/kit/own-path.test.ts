import fc from "fast-check";
import { expect, it } from "vitest";
import { ownPath } from "./own-path";

const AWAY = [
  "//evil.example",
  "/\\evil.example",
  "/\t/evil.example",
  "/\n/evil.example",
  "/\r\n//evil.example",
  "\t//evil.example",
  "/.//evil.example",
  "/..//evil.example/x",
  "/x/..//evil.example",
  "/%2e//evil.example",
  "https://evil.example",
  "https:/evil.example",
  "javascript:alert(1)",
  "",
];

it.each(AWAY)("leads to the first page instead of %j", (to) => {
  expect(ownPath(to)).toBe("/");
});

it("leads to pages of this server as they are", () => {
  for (const to of ["/", "/w/quillmoor", "/w/shop/results?days=7&q=a%2F%2Fb#top", "/w/a//b"])
    expect(ownPath(to)).toBe(to);
});

it("never leads away, whatever is written", () => {
  const pieces = fc.constantFrom(
    "/",
    "\\",
    "\t",
    "\n",
    ".",
    "..",
    "%2e",
    "%2f",
    "evil.example",
    "@",
    ":",
    "?",
    "#",
    "w",
    " ",
  );
  fc.assert(
    fc.property(fc.array(pieces, { maxLength: 9 }), (parts) => {
      const gone = new URL(ownPath(`/${parts.join("")}`), "https://shop.example/sign-in");
      expect(gone.origin).toBe("https://shop.example");
    }),
    { numRuns: 2000 },
  );
});
