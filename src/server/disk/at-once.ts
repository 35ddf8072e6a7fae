import PQueue from "p-queue";

/** Works on some at once. After the first that fails no other is begun, and those under way come to their end. */
export async function atOnce<T>(all: readonly T[], most: number, work: (one: T) => Promise<void>): Promise<void> {
  const queue = new PQueue({ concurrency: most });
  const failed: unknown[] = [];
  for (const one of all)
    void queue.add(() =>
      work(one).catch((error: unknown) => {
        failed.push(error);
        queue.clear();
      }),
    );
  await queue.onIdle();
  if (failed.length > 0) throw failed[0];
}
