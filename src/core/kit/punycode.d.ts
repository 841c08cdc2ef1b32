/** The parts used of the package punycode, which names its file so as not to be taken for Node's own module. */
declare module "punycode/punycode.js" {
  const punycode: { toUnicode(domain: string): string };
  export default punycode;
}
