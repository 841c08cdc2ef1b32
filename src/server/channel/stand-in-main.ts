import { parseArgs } from "node:util";
import { conform } from "./conform";
import { hostChannel } from "./host";
import { HttpChannel } from "./http-channel";
import { MemoryChannel } from "./memory-channel";

/**
 * Starts a stand-in platform that speaks `docs/channel.md`, or tries a channel at an address against it:
 * `npm run channel -- --port 4600 --token secret`, `npm run channel -- --check http://127.0.0.1:4600 secret`.
 */
async function main(): Promise<number> {
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: {
      port: { type: "string", default: "4600" },
      token: { type: "string", default: "secret" },
      check: { type: "boolean", default: false },
    },
  });
  if (!values.check) {
    hostChannel(new MemoryChannel(), values.token).listen(Number(values.port), "127.0.0.1", () =>
      console.log(`A stand-in platform answers at http://127.0.0.1:${values.port}; its token is ${values.token}.`),
    );
    return new Promise(() => {});
  }
  const [address, token] = positionals;
  if (!address || !token) {
    console.error("Say the address and the token: npm run channel -- --check http://127.0.0.1:4600 secret");
    return 2;
  }
  // Whoever sits at this machine named the address, so it may be one of its own.
  process.env["HOTSHELF_PRIVATE_ADDRESSES"] ??= "true";
  const checked = await conform(new HttpChannel(address, token), String(Date.now()));
  for (const { check, fault } of checked) console.log(fault === null ? `holds  ${check}` : `BREAKS ${check}: ${fault}`);
  return checked.every(({ fault }) => fault === null) ? 0 : 1;
}

process.exitCode = await main();
