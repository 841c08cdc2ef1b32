import { describe, expect, it } from "vitest";
import { renderName } from "../planogram/names";
import { nameClash } from "./name-clash";
import { CAMPAIGN_KINDS, PURPOSES } from "./records/campaign";

const clash = (name: string, purpose: (typeof PURPOSES)[number], kind: (typeof CAMPAIGN_KINDS)[number] = "feed") =>
  nameClash({ name, purpose, kind });

describe("a name that contradicts its settings", () => {
  it("is one that says another purpose or kind, and not its own too", () => {
    expect(clash("Seeds · rank", "scale")).toBe("“rank” in the name, its purpose is scale");
    expect(clash("Seeds, Discover", "rank")).toBe("“discover” in the name, its purpose is rank");
    expect(clash("Watering keywords", "rank", "feed")).toBe("“keyword” in the name, its kind is feed");
    expect(clash("From rank to scale", "scale")).toBeNull();
    expect(clash("Catch-all for the rest", "catch-all")).toBeNull();
    // Parts of other words say nothing.
    expect(clash("Frankincense textiles", "scale")).toBeNull();
  });

  it("is never one made of the settings themselves", () => {
    for (const purpose of PURPOSES) {
      for (const kind of CAMPAIGN_KINDS) {
        const name = renderName(
          [
            { kind: "field", field: "purpose" },
            { kind: "text", text: " · " },
            { kind: "field", field: "campaign-kind" },
          ],
          {
            ...{
              levels: [],
              product: "",
              purpose,
              planogram: "",
              campaign: "",
              number: 1,
              kind,
              firstDay: "",
              match: "",
            },
          },
        );
        expect(clash(name, purpose, kind)).toBeNull();
      }
    }
  });
});
