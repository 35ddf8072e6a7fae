import { look } from "@/server/guard/answer";
import { keepsakeOf } from "@/server/survey/keepsake";

export const GET = look((engine, query) => keepsakeOf(engine, query));
