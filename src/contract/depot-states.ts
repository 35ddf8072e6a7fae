export type DepotKind = "folder" | "drive" | "cloud";
export type DepotState = "ready" | "away" | "full" | "no sign-in" | "unreachable";
export type ParcelState = "collecting" | "sending" | "paused" | "failed" | "sent" | "damaged";
