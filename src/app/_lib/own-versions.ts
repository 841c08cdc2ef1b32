/** Versions of an account that one's own edits made one after the other, with nobody else's between them. */
interface OwnVersions {
  /** The version before the first of them. */
  from: number;
  to: number;
}

const known = new Map<string, OwnVersions>();

/** Notes that an edit of one's own made a version of a workspace's account. */
export function noteOwnVersion(workspace: string, version: number): void {
  const own = known.get(workspace);
  known.set(workspace, own?.to === version - 1 ? { ...own, to: version } : { from: version - 1, to: version });
}

/**
 * The version that somebody has in mind who edits with `shown` on screen. Until the figures are read anew the screen
 * is behind one's own last edits, and those must not stand in one's own way; another's edit between them still does.
 */
export function versionInMind(workspace: string, shown: number): number {
  const own = known.get(workspace);
  return own && shown >= own.from && shown <= own.to ? own.to : shown;
}
