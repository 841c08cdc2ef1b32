import { CONTRACT, type Carries, type ChannelAbout, type PlacePage } from "@/core/dispatch/contract";
import { giveUp } from "@/core/kit/outcome";
import type { Database } from "@/db/client";
import { BooksChannel } from "./books";

/**
 * A channel that a person carries files to and from: what is sent is taken down as given out, and stands only once a structure
 * file from there has been read back. Reports and places come in as files as well.
 */
export class FilesChannel extends BooksChannel {
  constructor(
    db: Database,
    /** What the place that the files go to can carry, as its owner wrote it down. */
    private readonly carries: Carries,
  ) {
    super(db);
  }

  async about(): Promise<ChannelAbout> {
    return { contract: CONTRACT, name: "Files", tellsPlaces: false, reports: [], carries: this.carries };
  }

  async places(): Promise<PlacePage> {
    return { places: [], next: null };
  }

  report(): AsyncIterable<Uint8Array> {
    return giveUp("channel-no-report", "Reports of this channel come in as files.", "Read them in under Results.");
  }
}
