import NextLink from "next/link";
import type { ComponentProps } from "react";

/** A way to another view. Nothing of it is fetched ahead: a page at rest asks for nothing, and the server is this very computer. */
export const Link = (props: ComponentProps<typeof NextLink>) => <NextLink prefetch={false} {...props} />;
