import { Problem, type ProblemCode, type ProblemFacts } from "@/core/problem";

const byError: Record<string, ProblemCode> = {
  ENOENT: "vanished",
  EEXIST: "name-taken",
  ENOTEMPTY: "not-empty",
  ENOSPC: "no-space",
  EDQUOT: "no-space",
  EROFS: "read-only",
  EACCES: "no-permission",
  EPERM: "no-permission",
  EMFILE: "too-many-open",
  ENFILE: "too-many-open",
  EBUSY: "device-busy",
  ETXTBSY: "device-busy",
  ELOOP: "link-on-the-way",
  ENOTDIR: "link-on-the-way",
  ENAMETOOLONG: "path-too-long",
  EXDEV: "cannot-cross",
};

/** The code of a failed system call, or undefined for anything else. */
export function errorCode(thrown: unknown): string | undefined {
  return thrown instanceof Error && "syscall" in thrown && "code" in thrown && typeof thrown.code === "string"
    ? thrown.code
    : undefined;
}

/** A failed system call as a problem about the thing it concerned; problems pass, other errors too. */
export function diskProblem(thrown: unknown, facts: ProblemFacts): unknown {
  const code = errorCode(thrown);
  if (code === undefined) return thrown;
  return new Problem(byError[code] ?? "disk-error", { ...facts, detail: facts.detail ?? code });
}
