import { look } from "@/server/guard/answer";
import { pageOf } from "@/server/looks/page";

export const GET = look((engine, query, request) => pageOf(engine, query, request.signal));
