/** A page of this server to go to; an address that leads elsewhere, however it is written, becomes the first page. */
export function ownPath(to: string): string {
  return /^\/(?![/\\])/.test(to) ? to : "/";
}
