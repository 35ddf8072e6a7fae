/** Opens the account when the server starts: lock, recovery, first look. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== "nodejs" || !process.env.VUOTO_ACCOUNT) return;
  const { startServing } = await import("@/server/serving");
  await startServing();
}
