/** Orders of a day's clicks that came in so many days later. */
export interface Arrival {
  day: number;
  age: number;
  orders: number;
}

/** How a day's orders fill up. */
export interface LagCurve {
  /** `share[d]` of a day's final orders are seen `d` days after it; 1 beyond its end. */
  share: number[];
  /** Orders it was learned from; few make it unsure. */
  orders: number;
}

/** Nothing is known to come late. */
export const NO_LAG: LagCurve = { share: [], orders: 0 };

/** Orders below which no curve is drawn from them. */
const LEAST_ORDERS = 50;
/** Orders that come later than this many days after the click are not waited for. */
const LONGEST = 45;

/**
 * Learns how days fill up from how past ones did: for each age the growth to the next one, over all days seen at both
 * (chain ladder, Mack 1993), multiplied from the end backwards.
 * @param arrivals a day's first one is all that was seen of it then, so its growth is known from that age on
 * @param lastAge how old a day was when it was last seen; below 0 for a day that is not to be counted
 */
export function estimateLag(arrivals: Arrival[], lastAge: (day: number) => number): LagCurve {
  const days = new Map<number, number[]>();
  let orders = 0;
  let oldest = 0;
  for (const { day, age, orders: n } of arrivals) {
    if (age < 0 || age > LONGEST || lastAge(day) < 0) continue;
    const list = days.get(day) ?? [];
    list[age] = (list[age] ?? 0) + n;
    days.set(day, list);
    orders += n;
    oldest = Math.max(oldest, n > 0 ? age : 0);
  }
  if (orders < LEAST_ORDERS || oldest === 0) return { share: [], orders };
  const growth: number[] = [];
  for (let age = 0; age < oldest; age++) {
    let now = 0;
    let next = 0;
    for (const [day, list] of days) {
      if (lastAge(day) < age + 1 || firstAge(list) > age) continue;
      let sum = 0;
      for (let d = 0; d <= age; d++) sum += list[d] ?? 0;
      now += sum;
      next += sum + (list[age + 1] ?? 0);
    }
    growth.push(now > 0 ? next / now : 1);
  }
  const share: number[] = new Array<number>(oldest + 1).fill(1);
  for (let age = oldest - 1; age >= 0; age--) {
    share[age] = share[age + 1]! / Math.max(1, growth[age]!);
  }
  return { share, orders };
}

/** Late orders hardly come later than this many days after a day was looked at, however long nobody looked again. */
const MOST_DAYS_BETWEEN = 14;

/**
 * What files showed of days at some ages, as arrivals age by age: what came between two looks is spread over the days
 * between them, in equal proportion a day.
 * @param seen one a file and day; `orders` is what it added to what was known
 */
export function betweenLooks(seen: Arrival[]): Arrival[] {
  const days = new Map<number, Arrival[]>();
  for (const one of seen) days.set(one.day, [...(days.get(one.day) ?? []), one]);
  return [...days.values()].flatMap((looks) => {
    looks.sort((a, b) => a.age - b.age);
    let known = 0;
    let last = looks[0]!.age;
    return looks.flatMap(({ day, age, orders }) => {
      const steps = Math.min(MOST_DAYS_BETWEEN, age - last);
      const before = known;
      known += orders;
      const from = last;
      last = age;
      if (steps < 2 || before <= 0 || known <= 0) return [{ day, age, orders }];
      const at = (step: number) => before * (known / before) ** (step / steps);
      return Array.from({ length: steps }, (_, i) => ({ day, age: from + i + 1, orders: at(i + 1) - at(i) }));
    });
  });
}

/** The age at which a day was first seen. */
function firstAge(list: number[]): number {
  return list.findIndex((orders) => orders !== undefined);
}

/** Share of a day's final orders that are seen when the day is so many days old. */
export function seenShare({ share }: LagCurve, age: number): number {
  return age < 0 || age >= share.length ? 1 : Math.max(0.05, share[age]!);
}

/** A day below this share is marked as incomplete. */
export const COMPLETE = 0.98;
