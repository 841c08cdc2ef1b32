/**
 * Whether text of one byte a character is Windows-1250 (Polish, Czech, Slovak, Hungarian, Croatian, Slovene, Romanian)
 * rather than Windows-1252, from how often each byte stands between letters. The two share most letters, so what tells
 * are bytes that are a letter in one and a sign in the other, and letters that only go together in one of them.
 * @param counts how often each byte value stands next to a letter
 */
export function isCentralEuropean(counts: ArrayLike<number>): boolean {
  const sum = (...bytes: number[]) => bytes.reduce((total, byte) => total + counts[byte]!, 0);
  // ą ł ż ś ź ž ť ľ in 1250; superscripts, fractions, inverted marks and ligatures in 1252, which hardly stand in words.
  const onlyLetters = sum(0xb9, 0xb3, 0xbf, 0x9c, 0x9f, 0x9d, 0xbe, 0xb5);
  // ě with ř or ů, and ő with ű; in 1252 ì with ø, and õ with û, which no language has together.
  const czech = counts[0xec]! > 0 && sum(0xf8, 0xf9) > 0 ? sum(0xec, 0xf8, 0xf9, 0xe8, 0xef, 0xf2) : 0;
  const hungarian = counts[0xf5]! > 0 && counts[0xfb]! > 0 ? sum(0xf5, 0xfb) : 0;
  // à å æ ã and also è ù ò without the above: languages of the west.
  const western = sum(0xe0, 0xe5, 0xe3);
  return 3 * onlyLetters + czech + hungarian > 3 * western;
}

/** Letters of ASCII, and those bytes that are letters in both. */
const isLetter = (byte: number) => (byte >= 65 && byte <= 90) || (byte >= 97 && byte <= 122) || byte >= 0xc0;

/** Adds to `counts` how often each byte above ASCII stands next to a letter. */
export function countBesideLetters(bytes: Uint8Array, counts: Float64Array): void {
  for (let i = 0; i < bytes.length; i++) {
    const byte = bytes[i]!;
    if (byte < 128) continue;
    if (isLetter(bytes[i - 1] ?? 0) || isLetter(bytes[i + 1] ?? 0)) counts[byte] = counts[byte]! + 1;
  }
}
