import { NextResponse, type NextRequest } from "next/server";
import { isOwnHost } from "@/server/api/own-host";
import { isSignInOn } from "@/server/settings";
import { SESSION_COOKIE } from "@/server/sign-in/cookie";
import { SEARCH_HEADER } from "@/server/web/search-header";

/** Refuses pages under foreign names, and gives every page a strict Content-Security-Policy with a nonce of its own. */
export function proxy(request: NextRequest) {
  if (!isOwnHost(request.headers.get("host"))) {
    return new NextResponse("This server does not answer under that name.\n", { status: 421 });
  }
  const { pathname, search } = request.nextUrl;
  // Whether a session still holds is seen where the page is made; without one there is nothing to see there.
  if (isSignInOn() && !/^\/(?:sign-in|welcome\/[^/]+)$/.test(pathname) && !request.cookies.has(SESSION_COOKIE)) {
    return NextResponse.redirect(new URL(`/sign-in?to=${encodeURIComponent(pathname + search)}`, request.url));
  }
  const nonce = Buffer.from(crypto.randomUUID()).toString("base64");
  const isDev = process.env.NODE_ENV === "development";
  const policy = [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic'${isDev ? " 'unsafe-eval'" : ""}`,
    // Virtual tables place rows by style attributes.
    "style-src 'self' 'unsafe-inline'",
    // Item pictures come from the shop's own server.
    "img-src 'self' data: blob: https: http:",
    "font-src 'self' data:",
    "connect-src 'self'",
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'self'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join("; ");
  const headers = new Headers(request.headers);
  headers.set("x-nonce", nonce);
  headers.set(SEARCH_HEADER, search);
  headers.set("Content-Security-Policy", policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set("Content-Security-Policy", policy);
  return response;
}

// The API is left out: a proxy would hold whole uploads in memory.
export const config = { matcher: ["/((?!api/|_next/static|_next/image|favicon.ico|demo/).*)"] };
