/** Works on some at once. After the first that fails no other is begun, and those under way come to their end. */
export async function atOnce<T>(all: readonly T[], most: number, work: (one: T) => Promise<void>): Promise<void> {
  const queue = all.values();
  const failed: unknown[] = [];
  const lane = async () => {
    for (const one of queue) {
      if (failed.length > 0) return;
      try {
        await work(one);
      } catch (error) {
        failed.push(error);
      }
    }
  };
  await Promise.all(Array.from({ length: Math.min(most, all.length) }, lane));
  if (failed.length > 0) throw failed[0];
}
