/** Marks the bundle of the application that tests open, so that it is found where it must not be. */
export const markOfTests = "opens one account after another, for tests alone";
