/** What a worker's function is given: `tell` sends part of the answer, `cancelled` asks whether to stop. */
export interface WorkContext {
  tell(part: unknown): void;
  cancelled(): boolean;
}
