export function ensurePrograms(more?: string[]): Promise<void>;
export function built(file: string): string[];
export const programsFolder: string;
