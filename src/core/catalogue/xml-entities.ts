import { decodeHTMLStrict } from "entities";
import type { SaxesParser } from "saxes";

/** Lets a parser know the characters that HTML has names for, such as `&eacute;`: feeds use them without declaring them. */
export function xmlEntities(parser: SaxesParser): void {
  parser.ENTITIES = new Proxy(parser.ENTITIES, {
    get: (known, name) => {
      if (typeof name !== "string") return undefined;
      const own: unknown = known[name];
      if (typeof own === "string") return own;
      const text = decodeHTMLStrict(`&${name};`);
      return text === `&${name};` ? undefined : text;
    },
  });
}
