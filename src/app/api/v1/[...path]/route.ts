import { handleApi } from "@/server/api/handle";

export const dynamic = "force-dynamic";

type Context = { params: Promise<{ path: string[] }> };

async function handle(request: Request, { params }: Context): Promise<Response> {
  const { path } = await params;
  return handleApi(request, path.map(encodeURIComponent).join("/"));
}

export { handle as GET, handle as POST, handle as PUT, handle as DELETE };
