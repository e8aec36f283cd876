export function freePort(): Promise<number>
export function isFree(port: number): Promise<boolean>
