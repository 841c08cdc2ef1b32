import { closeSync, openSync, readSync, writeSync } from "node:fs";
import type { SunkTexts, TextSink } from "@/core/catalogue/text-sink";
import { ownTextsHead } from "@/core/kit/column-bytes";
import type { TextColumn } from "@/core/kit/columns";
import { collectGarbage } from "../memory";

/** Bytes written and read at a time. */
const PIECE = 1024 * 1024;

/** A sink for texts that is a file. */
export class TextSpool implements TextSink {
  private readonly fd: number;
  private readonly buffer = Buffer.allocUnsafe(PIECE);
  private used = 0;
  private lengths = new Uint32Array(1024);
  private rows = 0;

  constructor(private readonly file: string) {
    this.fd = openSync(file, "w");
  }

  push(text: string): void {
    if (this.rows === this.lengths.length) {
      const wider = new Uint32Array(this.rows * 2);
      wider.set(this.lengths);
      this.lengths = wider;
    }
    // A unit of a string takes three bytes at most.
    const most = text.length * 3;
    let length: number;
    if (most > PIECE) {
      this.flush();
      length = writeSync(this.fd, Buffer.from(text));
    } else {
      if (this.used + most > PIECE) this.flush();
      length = this.buffer.write(text, this.used);
      this.used += length;
    }
    this.lengths[this.rows++] = length;
  }

  private flush(): void {
    if (this.used > 0) writeSync(this.fd, this.buffer, 0, this.used);
    this.used = 0;
  }

  finish(): SunkTexts {
    this.flush();
    closeSync(this.fd);
    const { file } = this;
    const lengths = this.lengths.subarray(0, this.rows);
    return {
      column(): TextColumn {
        collectGarbage();
        return readTexts(file, lengths);
      },
      *pieces() {
        yield ownTextsHead(lengths);
        yield* pieces(file);
      },
    };
  }
}

/** A file's bytes, piece by piece, all in the one buffer. */
function* pieces(file: string): Generator<Buffer> {
  const fd = openSync(file, "r");
  try {
    const piece = Buffer.allocUnsafe(PIECE);
    for (let got = readSync(fd, piece); got > 0; got = readSync(fd, piece)) yield piece.subarray(0, got);
  } finally {
    closeSync(fd);
  }
}

/** The texts of a file as a column, read without ever holding all its bytes. */
function readTexts(file: string, lengths: Uint32Array): TextColumn {
  const codes = new Uint32Array(lengths.length);
  const values = [""];
  const source = pieces(file);
  // What is read and not yet taken; a text can lie across pieces.
  let held: Buffer = Buffer.alloc(0);
  for (let row = 0; row < lengths.length; row++) {
    const length = lengths[row]!;
    if (length === 0) continue;
    while (held.length < length) {
      const next = source.next();
      if (next.done) throw new Error(`the texts in ${file} end too soon`);
      // A copy, since the next piece comes in the same buffer.
      held = Buffer.concat([held, next.value]);
    }
    codes[row] = values.length;
    values.push(held.toString("utf8", 0, length));
    held = held.subarray(length);
  }
  return { kind: "text", codes, values };
}
