export const LOOPBACK: readonly string[] = ['localhost', '127.0.0.1', '::1'];

/** Whether only this machine reaches what listens there. */
export function isLoopback(host: string): boolean {
  return LOOPBACK.includes(host) || /^127\.\d+\.\d+\.\d+$/.test(host);
}
