import { streamEvents } from "@/server/events-stream";
import { look } from "@/server/guard/answer";

export const GET = look(streamEvents, { unnamed: true });
