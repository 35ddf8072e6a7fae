import type { z } from "zod";
import { Problem } from "@/core/problem";
import type { Engine } from "./engine";

/** Acts and questions by their path, and what each takes. */
export interface Table {
  schemas: Readonly<Record<string, z.ZodType>>;
  // biome-ignore lint/suspicious/noExplicitAny: each of them takes what its own schema says.
  operations: Readonly<Record<string, (engine: Engine, input: any) => unknown>>;
}

/** Checks what was asked against its contract and does it. */
export async function operateFrom(
  { schemas, operations }: Table,
  engine: Engine,
  path: string,
  input: unknown,
): Promise<unknown> {
  if (!Object.hasOwn(schemas, path)) throw new Problem("malformed", { detail: `there is no ${path}` });
  const parsed = schemas[path]!.safeParse(input);
  if (!parsed.success) {
    const issue = parsed.error.issues[0];
    throw new Problem("malformed", { detail: issue ? `${issue.path.join(".") || "the request"}: ${issue.message}` : undefined });
  }
  return operations[path]!(engine, parsed.data);
}
