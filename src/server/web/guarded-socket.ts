import type { Socket } from "node:net";
import { Duplex } from "node:stream";
import type { TLSSocket } from "node:tls";
import type { Failure } from "@/core/kit/outcome";
import { FramingGuard } from "./framing";

/** How long a connection that was answered goes on to be emptied, so that its answer is read before it is torn down, ms. */
const LINGER = 2000;

/** What is answered to a request that was not read to its end. */
export function rawAnswer(status: number, reason: string, failure: Failure): string {
  const body = JSON.stringify({ error: failure });
  const head = [
    `HTTP/1.1 ${status} ${reason}`,
    "connection: close",
    "content-type: application/json",
    "x-content-type-options: nosniff",
    "cache-control: no-store",
    `content-length: ${Buffer.byteLength(body)}`,
  ];
  return `${head.join("\r\n")}\r\n\r\n${body}`;
}

/**
 * A connection as the server's reader sees it: bytes that two readers could understand differently never arrive there. They
 * are refused, and the connection ends.
 */
export class GuardedSocket extends Duplex {
  /** Requests of it that are being answered. */
  answering = 0;
  private readonly guard: FramingGuard;
  private hasRefused = false;

  constructor(
    private readonly inner: Socket,
    allowsUpgrade: boolean,
  ) {
    super({ allowHalfOpen: true });
    this.guard = new FramingGuard(allowsUpgrade);
    inner.on("data", (bytes: Buffer) => this.arrive(bytes));
    inner.on("end", () => !this.hasRefused && this.push(null));
    inner.on("error", (error) => this.destroy(error));
    inner.on("close", () => this.destroy());
    inner.on("timeout", () => this.emit("timeout"));
  }

  get remoteAddress() {
    return this.inner.remoteAddress;
  }
  get remotePort() {
    return this.inner.remotePort;
  }
  get remoteFamily() {
    return this.inner.remoteFamily;
  }
  get localAddress() {
    return this.inner.localAddress;
  }
  get localPort() {
    return this.inner.localPort;
  }
  get encrypted() {
    return (this.inner as TLSSocket).encrypted === true;
  }
  setTimeout(ms: number, call?: () => void) {
    if (call) this.once("timeout", call);
    this.inner.setTimeout(ms);
    return this;
  }
  setNoDelay(on?: boolean) {
    this.inner.setNoDelay(on);
    return this;
  }
  setKeepAlive(on?: boolean, delay?: number) {
    this.inner.setKeepAlive(on, delay);
    return this;
  }
  ref() {
    this.inner.ref();
    return this;
  }
  unref() {
    this.inner.unref();
    return this;
  }

  /** What Node calls once an answer after which the connection ends is written. */
  destroySoon(): void {
    if (this.writableFinished) this.destroy();
    else this.end(() => this.destroy());
  }

  private arrive(bytes: Buffer): void {
    if (this.hasRefused) return;
    const odd = this.guard.take(bytes);
    if (odd) this.refuse(odd);
    else if (!this.push(bytes)) this.inner.pause();
  }

  private refuse(odd: string): void {
    this.hasRefused = true;
    const failure = {
      code: "input-framing",
      message: `The request has ${odd}. It was not read, and the connection ends.`,
      hint: "Nothing was changed. Send it with one plain length, or in plain chunks.",
    };
    // In the middle of another answer there is no place for it.
    if (this.answering === 0) this.inner.write(rawAnswer(400, "Bad Request", failure));
    this.destroy();
  }

  override _read(): void {
    this.inner.resume();
  }

  override _write(bytes: Buffer, _encoding: BufferEncoding, done: (error?: Error | null) => void): void {
    if (this.hasRefused) done();
    else this.inner.write(bytes, done);
  }

  override _final(done: (error?: Error | null) => void): void {
    this.inner.end(() => done());
  }

  /**
   * Ends the connection so that what was answered is read first: one that is torn down while bytes still come in tells its
   * other end of that before the answer.
   */
  override _destroy(error: Error | null, done: (error?: Error | null) => void): void {
    done(error);
    const { inner } = this;
    if (inner.destroyed) return;
    if (error) {
      inner.destroy();
      return;
    }
    inner.end();
    inner.removeAllListeners("data").on("data", () => {});
    inner.resume();
    setTimeout(() => inner.destroy(), LINGER).unref();
  }
}
