export function serve(options?: { dev?: boolean; env?: Record<string, string>; standIns?: boolean }): {
  stop: () => void;
};
export function waitForHealth(url: string, seconds?: number): Promise<void>;
export function run(
  command: string,
  args: string[],
  options?: { env?: Record<string, string>; quiet?: boolean },
): Promise<void>;
