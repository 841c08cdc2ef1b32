import { Account } from "@/core/account/account";
import type { Place } from "@/core/channel/place";
import { CONTRACT, type ChannelAbout, type PlacePage } from "@/core/dispatch/contract";
import { giveUp } from "@/core/kit/outcome";
import { MARKET_CARRIES } from "@/core/market/carried";
import type { Database } from "@/db/client";
import { loadCatalogue } from "../catalogue/load";
import { BooksChannel } from "../channel/books";
import type { WorkspaceInfo } from "../workspaces";
import { toldByMarket } from "./told";
import { loadWorld } from "./world";

const PAGE = 5000;

/** The test market as a channel: it runs its days on what stands in its books. */
export class MarketChannel extends BooksChannel {
  private telling: { all: Iterator<Place>; at: number } | null = null;

  constructor(
    db: Database,
    private readonly info: WorkspaceInfo,
  ) {
    super(db);
  }

  async about(): Promise<ChannelAbout> {
    // Its reports come in by themselves with each day that it runs.
    return { contract: CONTRACT, name: "Test market", tellsPlaces: true, reports: [], carries: MARKET_CARRIES };
  }

  async places(after: string | null): Promise<PlacePage> {
    const from = after === null ? 0 : Number(after);
    if (this.telling?.at !== from) this.telling = await this.tellFrom(from);
    const { telling } = this;
    const places: Place[] = [];
    while (places.length < PAGE) {
      const { value, done } = telling.all.next();
      if (done) {
        this.telling = null;
        return { places, next: null };
      }
      places.push(value as Place);
    }
    telling.at = from + PAGE;
    return { places, next: String(telling.at) };
  }

  private async tellFrom(at: number) {
    const found = await loadWorld(this.db, this.info, Account.EMPTY);
    const catalogue = await loadCatalogue(this.db, ["id"]);
    const all = found ? toldByMarket(found.world, catalogue) : [][Symbol.iterator]();
    for (let skipped = 0; skipped < at; skipped++) all.next();
    return { all, at };
  }

  report(): AsyncIterable<Uint8Array> {
    return giveUp("channel-no-report", "The test market's reports come in with each day that it runs.");
  }
}
