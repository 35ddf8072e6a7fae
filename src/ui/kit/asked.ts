"use client";
import { useEffect, useState } from "react";
import type { ApiAnswer, ApiInput, ApiPath } from "@/contract/api";
import { AskProblem, ask } from "./ask";
import { useLive } from "./live";

/**
 * What a question answers, asked anew as soon as anything changed; undefined until its first answer came. `input` is kept by
 * who asks; undefined: it is not asked.
 */
export function useAsked<P extends ApiPath>(path: P, input: ApiInput<P> | undefined): ApiAnswer<P> | undefined {
  const { say, atOnce } = useLive();
  const [answer, setAnswer] = useState<{ to: ApiInput<P>; is: ApiAnswer<P> }>();
  useEffect(() => {
    if (input === undefined) return;
    let last = 0;
    const load = () => {
      const turn = ++last;
      ask(path, input).then(
        (is) => turn === last && setAnswer({ to: input, is }),
        (problem) => {
          // What it was about is gone: the list in which it stood says so.
          const isGone = problem instanceof AskProblem && problem.code.startsWith("unknown-");
          if (turn === last && !isGone) say(problem);
        },
      );
    };
    load();
    const end = atOnce(load);
    return () => {
      last = Number.POSITIVE_INFINITY;
      end();
    };
  }, [path, input, say, atOnce]);
  return answer && answer.to === input ? answer.is : undefined;
}
