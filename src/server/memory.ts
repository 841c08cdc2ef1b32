import { setFlagsFromString } from "node:v8";
import { runInNewContext } from "node:vm";

let collect: (() => void) | null = null;

/**
 * Has the engine give back what is no longer used. Bytes held by typed arrays lie outside its heap, and it lets hundreds
 * of megabytes of them pile up before it looks; work that goes through large columns one by one calls this in between.
 */
export function collectGarbage(): void {
  if (!collect) {
    setFlagsFromString("--expose-gc");
    collect = runInNewContext("gc") as () => void;
  }
  collect();
}

/** {@link collectGarbage}, then a turn of the event loop: only then does the database client let go of what it held. */
export async function collectGarbageFully(): Promise<void> {
  collectGarbage();
  await new Promise((resolve) => setImmediate(resolve));
}
