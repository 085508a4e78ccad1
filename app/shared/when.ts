/** A time as lists show it, without its year. @param time in milliseconds since 1970 */
export const when = (time: number): string =>
  new Date(time).toLocaleString('en-US', { month: 'short', day: 'numeric', hour: 'numeric', minute: '2-digit' })
