import { look } from "@/server/guard/answer";
import { lettersOf } from "@/server/looks/page";

export const GET = look((engine, query, request) => lettersOf(engine, query, request.signal));
