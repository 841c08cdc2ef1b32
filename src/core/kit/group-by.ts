/** A list's members by key, in their order. (The runtime's own `Map.groupBy` needs Node 21.) */
export function groupBy<T, K>(list: Iterable<T>, keyOf: (member: T) => K): Map<K, T[]> {
  const groups = new Map<K, T[]>();
  for (const member of list) {
    const key = keyOf(member);
    const found = groups.get(key);
    if (found) found.push(member);
    else groups.set(key, [member]);
  }
  return groups;
}
