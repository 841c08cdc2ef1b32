/** Days that say when campaigns usually run dry: the same on every screen, whatever window it shows. */
export const STOP_DAYS = 14;
