// What the command scripts share. Only Node's own modules: these run before node_modules exists.
import { spawn } from "node:child_process";
import { createHash } from "node:crypto";
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { built, programsFolder, root, typescript } from "./build.mjs";
import { run } from "./run.mjs";
import { keepRunning, WRONG_SETUP } from "./keep.mjs";

export { run };

/** Installs the packages of the lock file unless that was done for this very lock file already. */
export async function ensureInstalled() {
  const lock = createHash("sha256")
    .update(readFileSync(path.join(root, "package-lock.json")))
    .digest("hex");
  const stamp = path.join(root, "node_modules", ".hot-shelf-lock");
  if (existsSync(stamp) && readFileSync(stamp, "utf8") === lock) return;
  console.log("Installing packages …");
  await run("npm", ["ci", "--no-audit", "--no-fund"]);
  writeFileSync(stamp, lock);
}

/** Installs Chromium from Debian's packages unless there is one. */
export async function ensureChromium() {
  if (process.env.CHROMIUM_PATH || existsSync("/usr/bin/chromium")) return;
  console.log("Installing Chromium from Debian's packages …");
  const sudo = process.getuid?.() === 0 ? [] : ["sudo"];
  const apt = (args) => {
    const [command, ...before] = [...sudo, "apt-get"];
    return run(command, [...before, ...args], { env: { DEBIAN_FRONTEND: "noninteractive" } });
  };
  await apt(["update"]);
  await apt(["install", "-y", "--no-install-recommends", "chromium"]);
}

/**
 * Starts the web server, the counters that answer for it, and the job runner. Whichever ends is started again; a web server
 * that can't stay ends all. Ctrl C stops all.
 */
export function serve({ dev = false, env = {}, standIns = false } = {}) {
  // What is written is for this account alone.
  process.umask(0o077);
  const settings = { ...process.env, NEXT_TELEMETRY_DISABLED: "1", ...env };
  if (!dev) settings.HOTSHELF_PROGRAMS = programsFolder;
  const program = (file) => (dev ? typescript(file) : built(file));
  const host = settings.HOST ?? "127.0.0.1";
  const port = settings.PORT ?? "4310";
  let stopping = false;
  let runner;
  let shop;
  if (standIns) {
    // The demo's feed host and shop answer on the next port.
    const standInPort = String(Number(port) + 1);
    const address = `127.0.0.1:${standInPort}`;
    const hosts = ["quillmoor.example", "feeds.quillmoor.example", "ads.quillmoor.example"];
    settings.HOTSHELF_HOSTS ??= hosts.map((host) => `${host}=${address}`).join(",");
    shop = spawn(process.execPath, program("demo/stand-ins.ts"), {
      cwd: root,
      stdio: ["pipe", "inherit", "inherit"],
      env: { ...settings, STAND_IN_PORT: standInPort },
    });
  }
  const startRunner = () => {
    // Its standard input is a pipe of ours: when we are gone it closes, and the runner ends by itself.
    runner = spawn(process.execPath, program("src/server/runner/main.ts"), {
      cwd: root,
      stdio: ["pipe", "inherit", "inherit"],
      env: settings,
    });
    runner.on("exit", () => {
      if (!stopping) setTimeout(startRunner, 500);
    });
  };
  startRunner();
  const counters = openCounters(program("src/server/counter/main.ts"), settings, () => stopping);
  const web = keepRunning(
    () =>
      spawn(process.execPath, [...program("src/server/web/main.ts"), ...(dev ? ["--dev"] : [])], {
        cwd: root,
        stdio: "inherit",
        env: {
          ...settings,
          HOST: host,
          PORT: port,
          NODE_ENV: dev ? "development" : "production",
          HOTSHELF_COUNTERS: counters.sockets.join(","),
        },
      }),
    {},
    (code, how) => {
      if (code !== WRONG_SETUP) {
        console.error(
          `The web server ended by itself again and again, at last ${how}. Everything was stopped; nothing that was kept is lost.`,
        );
      }
      process.exitCode = code;
      stop();
    },
  );
  const stop = () => {
    stopping = true;
    runner.kill("SIGTERM");
    counters.close();
    shop?.kill("SIGTERM");
    web.stop();
  };
  for (const signal of ["SIGINT", "SIGTERM"]) process.on(signal, stop);
  return { host, port, stop, web: web.now, runner: () => runner };
}

/** One counter for quick requests, and two for what takes long. */
const COUNTERS = 3;

/**
 * Opens the counters: processes that answer API requests for the web server, each at a socket file in a folder that only
 * this account can enter. One that ends is opened again.
 */
function openCounters(program, env, isStopping) {
  const folder = mkdtempSync(path.join(tmpdir(), "hot-shelf-"));
  const sockets = Array.from({ length: COUNTERS }, (_, i) => path.join(folder, `${i}.sock`));
  const running = new Map();
  const open = (socket) => {
    const counter = spawn(process.execPath, [...program, socket], {
      cwd: root,
      stdio: ["pipe", "inherit", "inherit"],
      env,
    });
    running.set(socket, counter);
    counter.on("exit", () => {
      if (!isStopping()) setTimeout(() => open(socket), 200);
    });
  };
  sockets.forEach(open);
  const close = () => {
    for (const counter of running.values()) counter.kill("SIGTERM");
    rmSync(folder, { recursive: true, force: true });
  };
  return { sockets, close };
}

/** Waits until the server answers. */
export async function waitForHealth(url, seconds = 60) {
  const until = Date.now() + seconds * 1000;
  while (Date.now() < until) {
    const answered = await fetch(`${url}/api/v1/health`).then(
      (response) => response.ok,
      () => false,
    );
    if (answered) return;
    await new Promise((resolve) => setTimeout(resolve, 200));
  }
  throw new Error(`no answer from ${url} within ${seconds} seconds`);
}
