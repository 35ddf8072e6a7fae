import { look } from "@/server/guard/answer";
import { partOf } from "@/server/looks/page";

export const GET = look((engine, query, request) => partOf(engine, query, request.signal));
