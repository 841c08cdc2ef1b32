import { answerApi } from "@/server/counter/front";

export const dynamic = "force-dynamic";

function handle(request: Request): Promise<Response> {
  return answerApi(request);
}

export {
  handle as GET,
  handle as HEAD,
  handle as POST,
  handle as PUT,
  handle as DELETE,
  handle as PATCH,
  handle as OPTIONS,
};
