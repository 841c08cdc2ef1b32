import { describe, expect, it } from "vitest";
import { isSchemaOrg, productsIn } from "./schema-org";

describe("products of schema.org", () => {
  it("are known by their type, however its name is written", () => {
    const typed = (type: unknown) => isSchemaOrg({ "@type": type });
    expect(["Product", "schema:Product", "https://schema.org/Product", ["Thing", "Product"]].map(typed)).toEqual([
      ...[true, true, true, true],
    ]);
    expect(["Offer", "BreadcrumbList", "ProductReview"].map(typed)).toEqual([false, false, false]);
    expect([isSchemaOrg({ "@graph": [] }), isSchemaOrg({ name: "Hose" }), isSchemaOrg([]), isSchemaOrg(null)]).toEqual([
      ...[true, false, false, false],
    ]);
  });

  it("become one flat record each: identity, offer, brand, pictures, properties", () => {
    const product = {
      ...{
        "@context": "https://schema.org",
        "@type": "Product",
        "@id": "#hose",
        sku: " H1 ",
        name: "Hose",
        url: "/hose",
      },
      brand: { "@type": "Brand", name: "Thornlea" },
      image: ["a.jpg", { "@type": "ImageObject", contentUrl: "b.jpg" }],
      category: "Watering > Hoses",
      additionalProperty: [{ name: "Length", value: { value: 15 } }, { value: "no name" }],
      offers: [
        {
          ...{ price: 12.9, priceCurrency: "EUR", availability: "https://schema.org/InStock" },
          ...{ url: "/buy", itemCondition: "https://schema.org/NewCondition", inventoryLevel: { value: 4 } },
        },
        { price: 99 },
      ],
    };
    expect(productsIn(product)).toEqual([
      {
        ...{ id: "H1", sku: " H1 ", name: "Hose", brand: "Thornlea", category: ["Watering > Hoses"], family: "" },
        ...{ price: "12.9 EUR", availability: "https://schema.org/InStock", link: "/hose", condition: "NewCondition" },
        ...{ quantity: "4", image: ["a.jpg", "b.jpg"], Length: "15" },
      },
    ]);
  });

  it("take the price from a range or a specification, and the maker where there is no brand", () => {
    const one = (offers: object) => productsIn({ "@type": "Product", sku: "x", offers, manufacturer: "Veldine" })[0];
    expect(one({ lowPrice: "5", highPrice: "9", priceCurrency: "EUR" })).toMatchObject({
      price: "5 EUR",
      brand: "Veldine",
    });
    const specification = { "@type": "UnitPriceSpecification", price: 7, priceCurrency: "CHF" };
    expect(one({ priceSpecification: [specification] })).toMatchObject({ price: "7 CHF" });
    expect(one({})).toMatchObject({ price: "", availability: "" });
    // The product's own address goes before its offer's.
    expect(one({ url: "/buy" })).toMatchObject({ link: "/buy" });
  });

  it("of a group are its variants, which take over what they do not say themselves, but no identity", () => {
    const group = {
      ...{ "@type": "ProductGroup", "@id": "#g", sku: "G", productGroupID: "gloves", name: "Gloves", brand: "Pelldew" },
      hasVariant: [
        { "@type": "Product", sku: "G-S", name: "Gloves small" },
        { "@type": "Product", sku: "G-L", brand: "Veldine" },
      ],
    };
    expect(productsIn(group)).toMatchObject([
      { id: "G-S", name: "Gloves small", brand: "Pelldew", family: "gloves" },
      { id: "G-L", name: "Gloves", brand: "Veldine", family: "gloves" },
    ]);
    const { hasVariant: _, ...alone } = group;
    expect(productsIn(alone)).toMatchObject([{ id: "G", family: "gloves", name: "Gloves" }]);
    const variant = {
      "@type": "Product",
      sku: "V",
      isVariantOf: { "@type": "ProductGroup", productGroupID: "gloves" },
    };
    expect(productsIn(variant)).toMatchObject([{ id: "V", family: "gloves" }]);
  });

  it("are found in graphs and lists at any depth, and nothing else is taken for one", () => {
    const hose = { "@type": "Product", sku: "H" };
    const nested = {
      "@graph": [
        {
          "@type": "BreadcrumbList",
          itemListElement: [{ "@type": "ListItem", item: { "@type": "WebPage", name: "Home" } }],
        },
        { "@type": "ItemList", itemListElement: [{ "@type": "ListItem", position: 1, item: hose }, hose] },
        { "@type": "WebPage", mainEntity: { "@type": "ProductGroup", productGroupID: "p", hasVariant: hose } },
        { "@type": "Organization", name: "Quillmoor" },
      ],
    };
    expect(productsIn(nested).map(({ id, family }) => [id, family])).toEqual([
      ["H", ""],
      ["H", ""],
      ["H", "p"],
    ]);
    expect([productsIn("text"), productsIn(null), productsIn([hose])]).toEqual([[], [], []]);
  });
});
