import { cx } from "./cx";
import { MiddleCut } from "./middle-cut";

/** An item never stands as an ID alone: picture, title and ID together. */
export function ItemTag({
  id,
  title,
  image,
  large = false,
}: {
  id: string;
  title: string;
  image: string;
  large?: boolean;
}) {
  return (
    <span className="flex min-w-0 items-center gap-2">
      <Picture src={image} className={large ? "size-14" : "size-7"} />
      <span className="min-w-0">
        {large ? (
          <span className="block font-display text-base font-semibold">{title}</span>
        ) : (
          <MiddleCut text={title} />
        )}
        {large && <span className="font-mono text-xs text-soft">{id}</span>}
      </span>
    </span>
  );
}

/** An item's picture, or an empty frame where there is none or it can't be loaded. */
export function Picture({ src, className }: { src: string; className: string }) {
  const isUsable = /^(https?:\/\/|\/)/.test(src);
  return (
    <span className={cx("shrink-0 overflow-hidden rounded border border-line bg-raised", className)}>
      {isUsable && (
        // The shop's own picture address: nothing to optimise on our side.
        // eslint-disable-next-line @next/next/no-img-element
        <img
          src={src}
          alt=""
          loading="lazy"
          referrerPolicy="no-referrer"
          className="size-full object-cover"
          onError={(event) => (event.currentTarget.style.visibility = "hidden")}
        />
      )}
    </span>
  );
}
