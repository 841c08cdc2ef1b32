import { partsOf } from "@/core/kit/who";

/** Somebody who did something: the name, with the address beside it where there is one. */
export function Who({ who }: { who: string }) {
  const { name, email } = partsOf(who);
  if (email === null) return <>{name || "–"}</>;
  return (
    <span title={email}>
      {name} <span className="text-xs text-soft">{email}</span>
    </span>
  );
}
