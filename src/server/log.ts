import pino from "pino";
import { settings } from "./settings";

/** The process's log, as JSON lines on standard error. */
export const log = pino({ level: settings().LOG_LEVEL, base: null }, pino.destination(2));
