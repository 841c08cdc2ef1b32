import { vi } from "vitest";

/** For tests of components that follow the size of something: there is no layout here, so nothing ever changes its size. */
export function stubSizes(): void {
  vi.stubGlobal(
    "ResizeObserver",
    class {
      observe() {}
      unobserve() {}
      disconnect() {}
    },
  );
}
