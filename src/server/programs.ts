import path from "node:path";
import { settings } from "./settings";

/**
 * What a process is started with.
 * @param source a program's path from the project's root, as `src/server/runner/main.ts`
 */
export function programOf(source: string): { file: string; execArgv: string[] } {
  const folder = settings().HOTSHELF_PROGRAMS;
  if (folder === undefined) {
    return { file: path.resolve(/* turbopackIgnore: true */ process.cwd(), source), execArgv: ["--import", "tsx"] };
  }
  return {
    file: path.join(/* turbopackIgnore: true */ folder, source.replace(/\.ts$/, ".js")),
    execArgv: ["--enable-source-maps"],
  };
}
