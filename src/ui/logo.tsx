/** The mark: goods on a plank, the hottest first. */
export function Logo() {
  return (
    <svg aria-hidden viewBox="0 0 24 24" className="size-6">
      <rect x="3" y="6" width="5" height="12" rx="1" fill="var(--hot)" />
      <rect x="9" y="9" width="5" height="9" rx="1" fill="var(--warm)" />
      <rect x="15" y="12" width="5" height="6" rx="1" fill="var(--cool)" />
      <rect x="1" y="18.5" width="22" height="2.5" rx="1" fill="var(--plank)" />
    </svg>
  );
}
