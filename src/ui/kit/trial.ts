import { useEffect, useState } from "react";

/** After the last change of what is asked, before it is; milliseconds. */
const pause = 220;

/**
 * What an act would come to, asked anew whenever `key` changes and things have been quiet for a moment. While the answer is
 * under way the last one stands; `problem` says why there is none. Nothing is asked where `wanted` is false.
 */
export function useTrial<T>(key: string, ask: () => Promise<T>, wanted = true): { trial?: T; problem?: string } {
  const [answer, setAnswer] = useState<{ trial?: T; problem?: string }>({});
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for all that the question depends on
  useEffect(() => {
    if (!wanted) return setAnswer({});
    let current = true;
    const timer = setTimeout(() => {
      ask()
        .then((trial) => current && setAnswer({ trial }))
        .catch((error: unknown) => current && setAnswer({ problem: error instanceof Error ? error.message : "" }));
    }, pause);
    return () => {
      current = false;
      clearTimeout(timer);
    };
  }, [key, wanted]);
  return answer;
}
