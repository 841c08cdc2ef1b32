import { z } from "zod";
import packageJson from "../../../package.json";
import type { BoundEndpoint } from "./endpoint";

type JsonSchema = { properties?: Record<string, unknown>; required?: string[] };

function schemaOf(schema: z.ZodType): JsonSchema {
  return z.toJSONSchema(schema, { io: "input", unrepresentable: "any" }) as JsonSchema;
}

const errorSchema = {
  type: "object",
  properties: {
    error: {
      type: "object",
      properties: { code: { type: "string" }, message: { type: "string" }, hint: { type: "string" } },
      required: ["code", "message"],
    },
  },
};

/** The OpenAPI 3.1 description of the API, from the schemas that check its requests. */
export function openApiDocument(endpoints: BoundEndpoint[]) {
  const paths: Record<string, Record<string, unknown>> = {};
  for (const endpoint of endpoints) {
    const path = `/${endpoint.workspace ? "{workspace}/" : ""}${endpoint.path}`;
    const inPath = [...path.matchAll(/\{(\w+)\}/g)].map(([, name]) => ({
      name,
      in: "path",
      required: true,
      schema: { type: "string" },
    }));
    const query = endpoint.query ? schemaOf(endpoint.query) : {};
    const inQuery = Object.entries(query.properties ?? {}).map(([name, schema]) => ({
      name,
      in: "query",
      required: query.required?.includes(name) ?? false,
      schema,
    }));
    const content = endpoint.rawBody
      ? { "application/octet-stream": { schema: { type: "string", format: "binary" } } }
      : endpoint.body
        ? { "application/json": { schema: schemaOf(endpoint.body) } }
        : undefined;
    (paths[path] ??= {})[endpoint.method.toLowerCase()] = {
      summary: endpoint.summary,
      "x-role": endpoint.role,
      parameters: [...inPath, ...inQuery],
      ...(content ? { requestBody: { required: true, content } } : {}),
      responses: {
        [String(endpoint.status ?? 200)]: { description: "Done, or taken up." },
        default: { description: "What went wrong.", content: { "application/json": { schema: errorSchema } } },
      },
    };
  }
  return {
    openapi: "3.1.0",
    info: { title: "Hot Shelf", version: packageJson.version },
    servers: [{ url: "/api/v1" }],
    paths,
  };
}
