import { RateLimiterMemory, RateLimiterRes } from "rate-limiter-flexible";
import { giveUp } from "@/core/kit/outcome";

const MINUTE = 60;

/** Failures that one address may have with one account, one account in all, and one address in all, in some time. */
const pair = new RateLimiterMemory({ points: 5, duration: 15 * MINUTE });
const account = new RateLimiterMemory({ points: 50, duration: 60 * MINUTE });
const address = new RateLimiterMemory({ points: 100, duration: 60 * MINUTE });

function keysOf(email: string, from: string): [RateLimiterMemory, string][] {
  return [
    [pair, `${email} ${from}`],
    [account, email],
    [address, from],
  ];
}

/** Counts a try to sign in. @throws FailureError after too many that failed */
export async function countTry(email: string, from: string): Promise<void> {
  for (const [limiter, key] of keysOf(email, from)) {
    await limiter.consume(key).catch((error: unknown) => {
      if (!(error instanceof RateLimiterRes)) throw error;
      const minutes = Math.ceil(error.msBeforeNext / 60_000);
      giveUp(
        "sign-in-throttled",
        "There were too many failed tries.",
        `Try again in ${minutes === 1 ? "a minute" : `${minutes} minutes`}.`,
      );
    });
  }
}

/** Takes a try back that went well. */
export async function forgetTry(email: string, from: string): Promise<void> {
  await pair.delete(`${email} ${from}`);
  await account.reward(email);
  await address.reward(from);
}
