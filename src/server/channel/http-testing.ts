import { createServer, request, type IncomingMessage, type Server } from "node:http";
import type { AddressInfo } from "node:net";

const servers: Server[] = [];

/** For tests: has a server listen at an address of its own, which is given back. */
export async function listen(server: Server): Promise<string> {
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  servers.push(server);
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}

/** For tests: closes all of them. */
export function closeAll(): void {
  for (const server of servers) {
    server.closeAllConnections();
    server.close();
  }
}

/** What becomes of a request on its way: it passes, its answer is lost, nobody is there, or it takes its time. */
export type Way = "pass" | "lose answer" | "busy" | "gone" | "slow";

/** For tests: a way to a channel that goes wrong as a test says: each message is passed on, and its answer dealt with. */
export async function faultyWay(to: string, deal: (path: string, count: number) => Way): Promise<string> {
  let count = 0;
  return listen(
    createServer((incoming, outgoing) => {
      const way = deal(incoming.url ?? "", ++count);
      if (way === "gone") return void incoming.socket.destroy();
      if (way === "busy") return void outgoing.writeHead(503).end("{}");
      const { method, headers } = incoming as IncomingMessage & { method: string };
      const onward = request(to + incoming.url, { method, headers }, (answer) => {
        if (way === "lose answer") {
          answer.resume();
          answer.on("end", () => incoming.socket.destroy());
          return;
        }
        const send = () => {
          outgoing.writeHead(answer.statusCode ?? 500, answer.headers);
          answer.pipe(outgoing);
        };
        if (way === "slow") setTimeout(send, 300);
        else send();
      });
      incoming.pipe(onward);
    }),
  );
}
