/** What money buys, in mills. */
export interface Worth {
  cost: number;
  revenue: number;
}

/** The upper hull of points from the origin, as pieces of falling slope (Andrew's monotone chain). */
export function upperHull(points: Worth[]): { cost: number; slope: number }[] {
  const sorted = points
    .filter(({ cost, revenue }) => cost > 0 && revenue > 0)
    .sort((a, b) => a.cost - b.cost || b.revenue - a.revenue);
  const hull: Worth[] = [{ cost: 0, revenue: 0 }];
  for (const point of sorted) {
    if (point.revenue <= (hull.at(-1) as Worth).revenue) continue;
    while (hull.length > 1) {
      const [a, b] = [hull.at(-2) as Worth, hull.at(-1) as Worth];
      const isAbove =
        (b.revenue - a.revenue) * (point.cost - a.cost) <= (point.revenue - a.revenue) * (b.cost - a.cost);
      if (!isAbove) break;
      hull.pop();
    }
    hull.push(point);
  }
  return hull.slice(1).map((point, i) => {
    const before = hull[i]!;
    const cost = point.cost - before.cost;
    return { cost, slope: (point.revenue - before.revenue) / cost };
  });
}
