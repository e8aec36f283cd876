export function bundle(entryPoints: Record<string, string>, folder: string): Promise<void>
