/** The routes of this server, as Nitro lists them while it builds. */
declare module '#nitro-internal-virtual/server-handlers' {
  export const handlers: readonly { route?: string; method?: string; middleware?: boolean; lazy: boolean }[]
}
