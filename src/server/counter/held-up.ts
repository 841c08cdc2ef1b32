import { connect } from "node:net";
import { request } from "node:http";
import { Worker } from "node:worker_threads";

/** Whoever connects to this socket beside a counter's own ends the counter. */
export const endSocket = (socket: string) => `${socket}.end`;

/**
 * Lets a counter be ended from outside while its main thread is held up by a computation: a thread of its own waits for a
 * connection. The start script opens the counter again.
 */
export function listenForEnd(socket: string): void {
  const thread = `
    const { createServer } = require("node:net");
    require("node:fs").rmSync(${JSON.stringify(endSocket(socket))}, { force: true });
    createServer(() => process.kill(process.pid, "SIGKILL")).listen(${JSON.stringify(endSocket(socket))});`;
  new Worker(thread, { eval: true, execArgv: [] }).unref();
}

/** A counter that does not answer the simplest question for so long, ms, is held up. */
const MOST_SILENCE = 2000;

/** Whether a counter's event loop stands still. */
export function isHeldUp(socket: string): Promise<boolean> {
  return new Promise((resolve) => {
    const asked = request(
      { socketPath: socket, path: "/api/v1/health", timeout: MOST_SILENCE, agent: false },
      (answer) => {
        answer.resume();
        resolve(false);
      },
    );
    asked.on("timeout", () => {
      asked.destroy();
      resolve(true);
    });
    // One that is not open is being opened again already.
    asked.on("error", () => resolve(false));
    asked.end();
  });
}

/** Ends a counter, whatever it is at. @returns whether it was there to be ended */
export function endCounter(socket: string): Promise<boolean> {
  return new Promise((resolve) => {
    const end = connect(endSocket(socket));
    end.on("connect", () => {
      end.destroy();
      resolve(true);
    });
    end.on("error", () => resolve(false));
  });
}
