import { enter } from "@/server/guard/enter";

export const POST = enter;
