import type { Work } from "./work";

/** An expected failure: a stable code, a sentence for a person, and where or how to put it right. */
export interface Failure {
  code: string;
  message: string;
  hint?: string;
  /** What a machine has to do first; see `work.ts`. */
  work?: Work;
}

/** What a use case returns: a value, or a failure that a person can act on. Unexpected errors are thrown instead. */
export type Outcome<T> = { ok: true; value: T } | { ok: false; error: Failure };

/** Wraps a value as a success. */
export function ok<T>(value: T): Outcome<T> {
  return { ok: true, value };
}

/** Makes a failure with its code, sentence and hint. */
export function fail(code: string, message: string, hint?: string): { ok: false; error: Failure } {
  return { ok: false, error: hint === undefined ? { code, message } : { code, message, hint } };
}

/** An expected failure on its way through code that can only throw (streams, callbacks). Caught at the use case's edge. */
export class FailureError extends Error {
  constructor(readonly failure: Failure) {
    super(failure.message);
    this.name = "FailureError";
  }
}

/** Throws an expected failure; see {@link FailureError}. */
export function giveUp(code: string, message: string, hint?: string): never {
  throw new FailureError(fail(code, message, hint).error);
}
