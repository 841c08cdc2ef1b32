export function serve(options?: { dev?: boolean; env?: Record<string, string> }): { stop: () => void };
export function waitForHealth(url: string, seconds?: number): Promise<void>;
