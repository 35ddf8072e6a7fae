/** How long a second is for whoever waits before trying again, in milliseconds; tests have shorter ones. */
export const secondMs = Number(process.env.VUOTO_WAIT_SECOND_MS) || 1000;
