import { drawItem } from "@/core/catalogue/drawing";

/** The demo's item pictures: small drawings made from the item's ID. */
export async function GET(_request: Request, { params }: { params: Promise<{ id: string }> }): Promise<Response> {
  const { id } = await params;
  return new Response(drawItem(id.slice(0, 40)), {
    headers: {
      "content-type": "image/svg+xml",
      "cache-control": "public, max-age=31536000, immutable",
      "content-security-policy": "default-src 'none'; style-src 'unsafe-inline'",
    },
  });
}
