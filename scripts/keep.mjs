// Keeps a process running. Only Node's own modules: this runs before node_modules exists.

/** A process that is set up wrongly says so itself and ends with this code; starting it again would not help. */
export const WRONG_SETUP = 78;

/**
 * Starts a process, and again whenever it ends by itself: at once, then after ever longer pauses, and not more often than
 * stated, since one that always ends is broken.
 *
 * @param start starts it and returns it
 * @param limits `most` starts again within `within` ms; pauses begin at `pause` ms and double
 * @param onEnd is told the code with which everything should end, once it is not started again, and how the process ended
 * @returns `stop`, which ends it for good, and the process `now`
 */
export function keepRunning(start, { most = 5, within = 60_000, pause = 250 } = {}, onEnd = () => {}) {
  let isStopping = false;
  let running;
  let waiting;
  const again = [];
  const begin = () => {
    running = start();
    running.on("exit", (code, signal) => {
      if (isStopping) return;
      const now = Date.now();
      while (again.length > 0 && now - again[0] > within) again.shift();
      if (code === WRONG_SETUP || again.length >= most) {
        onEnd(code || 70, signal === null ? `with code ${code}` : `by ${signal}`);
        return;
      }
      waiting = setTimeout(begin, again.length === 0 ? 0 : pause * 2 ** (again.length - 1));
      again.push(now);
    });
  };
  begin();
  return {
    now: () => running,
    stop: (signal = "SIGTERM") => {
      isStopping = true;
      clearTimeout(waiting);
      running.kill(signal);
    },
  };
}
