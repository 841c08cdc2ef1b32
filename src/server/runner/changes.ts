import { statSync, watch, type FSWatcher } from "node:fs";
import path from "node:path";

/** How often files are looked at where the system tells of their changes, and where it does not, ms. */
const LOOK_TOLD = 2000;
const LOOK_UNTOLD = 250;

/** What SQLite writes to: the file, and beside it what was written and not taken over yet. */
const WRITTEN = /\.db(?:-wal)?$/;

/**
 * Which databases of a folder were written to. The system tells of it at once; that nothing of it gets lost, the files are
 * looked at now and then as well. Nobody needs to open and ask a database in which nothing happened.
 */
export class Changes {
  private readonly written = new Set<string>();
  /** What each file was like when it was looked at last. */
  private readonly marks = new Map<string, string>();
  private watcher: FSWatcher | null = null;
  private lookedAt = 0;
  /** Whether something was written since somebody waited last. */
  private hasNews = false;
  private wake: (() => void) | null = null;

  constructor(private readonly folder: string) {
    try {
      this.watcher = watch(folder, (_event, name) => this.note(name));
      this.watcher.on("error", () => this.close());
      this.watcher.unref();
    } catch {
      // Then looking has to do.
    }
  }

  /** Whether a database was written to since this was asked last; true for one that was never asked about. */
  take(file: string): boolean {
    const isNew = !this.marks.has(file);
    if (isNew) this.marks.set(file, markOf(file));
    return this.written.delete(file) || isNew;
  }

  /** Looks at all that was asked about, where it is time to. */
  look(now = performance.now()): void {
    if (now - this.lookedAt < (this.watcher ? LOOK_TOLD : LOOK_UNTOLD)) return;
    this.lookedAt = now;
    for (const [file, before] of this.marks) {
      const mark = markOf(file);
      if (mark === before) continue;
      this.marks.set(file, mark);
      this.written.add(file);
    }
  }

  /** Waits until something is written, at most so many ms. */
  wait(ms: number): Promise<void> {
    return new Promise((resolve) => {
      // Looking has to be done oftener where the system tells of nothing.
      const most = this.hasNews ? 0 : Math.min(ms, this.watcher ? ms : LOOK_UNTOLD);
      const timer = setTimeout(() => this.wake?.(), most);
      this.wake = () => {
        clearTimeout(timer);
        this.wake = null;
        this.hasNews = false;
        resolve();
      };
    });
  }

  /** Ends a wait before its time. */
  endWait(): void {
    this.hasNews = true;
    this.wake?.();
  }

  close(): void {
    this.watcher?.close();
    this.watcher = null;
  }

  private note(name: string | null): void {
    if (name === null || !WRITTEN.test(name)) return;
    this.written.add(path.join(this.folder, name.replace(/-wal$/, "")));
    this.endWait();
  }
}

function markOf(file: string): string {
  return [file, `${file}-wal`]
    .map((one) => statSync(one, { throwIfNoEntry: false }))
    .map((stat) => (stat ? `${stat.mtimeMs}/${stat.size}` : "-"))
    .join();
}
