/**
 * Watches the bytes of a connection for whatever two readers of HTTP could understand differently (RFC 9112, sections 2.2,
 * 5.1, 6 and 7), before any of them reads it. It reads only as much as it takes to know where each request ends.
 */

/** Where in a request the next byte stands. */
type Place = "first line" | "headers" | "body" | "chunk size" | "chunk" | "chunk end" | "after chunks" | "unwatched";

const CR = 13;
const LF = 10;
/** The longest line of a head, bytes; Node's own reader has a limit for all of it. */
const MOST_LINE = 20_000;
/** The longest line with a chunk's size: sixteen digits would be more than any file. */
const MOST_SIZE_LINE = 14;

const FIRST_LINE = /^[!#$%&'*+.^_`|~0-9A-Za-z-]+ [\x21-\x7e\x80-\xff]+ HTTP\/1\.[01]$/;
const HEADER = /^([!#$%&'*+.^_`|~0-9A-Za-z-]+):[ \t]*(.*?)[ \t]*$/;
/** What can't stand in a header's value. */

const UNSEEN = /[\x00-\x08\x0a-\x1f\x7f]/;

export class FramingGuard {
  private place: Place = "first line";
  private line = "";
  /** Bytes of the body or chunk that are still to come. */
  private left = 0;
  private length: number | null = null;
  private isChunked = false;
  private isOld = false;
  private hasHost = false;

  /** @param allowsUpgrade whether a connection may be used for something other than HTTP after a request for that */
  constructor(private readonly allowsUpgrade = false) {}

  /**
   * Takes the next bytes of a connection.
   * @returns what is odd about them, in words for whoever sent them; null where nothing is
   */
  take(bytes: Uint8Array): string | null {
    for (let at = 0; at < bytes.length;) {
      if (this.place === "unwatched") return null;
      if (this.place === "body" || this.place === "chunk") {
        const passed = Math.min(this.left, bytes.length - at);
        this.left -= passed;
        at += passed;
        if (this.left === 0) this.place = this.place === "body" ? "first line" : "chunk end";
        continue;
      }
      const end = bytes.indexOf(LF, at);
      const part = bytes.subarray(at, end < 0 ? bytes.length : end + 1);
      this.line += Buffer.from(part.buffer, part.byteOffset, part.length).toString("latin1");
      at += part.length;
      const isSize = this.place === "chunk size";
      if (this.line.length > (isSize ? MOST_SIZE_LINE : MOST_LINE)) {
        return isSize ? "a chunk with more than its size" : "a line of its head that is too long";
      }
      if (end < 0) return this.lineFault(false);
      const odd = this.lineFault(true) ?? this.endLine(this.line.slice(0, -2));
      if (odd) return odd;
      this.line = "";
    }
    return null;
  }

  /** Line ends are CR LF, both and nowhere else. */
  private lineFault(isWhole: boolean): string | null {
    const inner = isWhole ? this.line.slice(0, -2) : this.line.replace(/\r$/, "");
    if (inner.includes("\r")) return "a carriage return within a line";
    return isWhole && this.line.charCodeAt(this.line.length - 2) !== CR ? "a bare line feed" : null;
  }

  private endLine(line: string): string | null {
    switch (this.place) {
      case "first line":
        // An empty line before a request is passed over, as readers do.
        if (line === "") return null;
        if (!FIRST_LINE.test(line)) return "a first line that is no request of HTTP/1.1";
        this.isOld = line.endsWith("1.0");
        this.length = null;
        this.isChunked = false;
        this.hasHost = false;
        this.place = "headers";
        return null;
      case "headers":
        return line === "" ? this.endHead() : this.header(line);
      case "chunk size":
        if (!/^[0-9a-f]{1,12}$/i.test(line)) return "a chunk with more than its size";
        this.left = Number.parseInt(line, 16);
        this.place = this.left === 0 ? "after chunks" : "chunk";
        return null;
      case "chunk end":
        this.place = "chunk size";
        return line === "" ? null : "a chunk that is longer than its size";
      default:
        this.place = "first line";
        return line === "" ? null : "headers after its body";
    }
  }

  private header(line: string): string | null {
    if (/^[ \t]/.test(line)) return "a header that goes on in another line";
    const [, name = "", value = ""] = HEADER.exec(line) ?? [];
    if (name === "" || UNSEEN.test(value)) return "a header that is none";
    switch (name.toLowerCase()) {
      case "content-length":
        if (this.length !== null) return "its length twice";
        if (!/^\d{1,15}$/.test(value)) return "a length that is no number";
        this.length = Number(value);
        return this.isChunked ? "a length and a transfer coding" : null;
      case "transfer-encoding":
        if (this.isChunked) return "its transfer coding twice";
        if (value.toLowerCase() !== "chunked") return "a transfer coding other than chunked";
        this.isChunked = true;
        if (this.isOld) return "a transfer coding in HTTP/1.0";
        return this.length !== null ? "a length and a transfer coding" : null;
      case "host":
        if (this.hasHost) return "two hosts";
        this.hasHost = true;
        return null;
      case "upgrade":
        if (!this.allowsUpgrade) return "a wish to speak something other than HTTP";
        this.place = "unwatched";
        return null;
      default:
        return null;
    }
  }

  private endHead(): string | null {
    this.left = this.length ?? 0;
    this.place = this.isChunked ? "chunk size" : this.left > 0 ? "body" : "first line";
    return null;
  }
}
