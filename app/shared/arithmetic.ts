/**
 * The value of a typed expression: numbers, + - * / and parentheses. A comma counts as a decimal point.
 * @returns null for anything else
 */
export function evaluateArithmetic(text: string): number | null {
  const tokens = text.replaceAll(',', '.').match(/\d*\.?\d+(?:e[+-]?\d+)?|[-+*/()]/gi) ?? []
  if (tokens.join('') !== text.replaceAll(',', '.').replace(/\s+/g, '')) return null
  let at = 0
  const factor = (): number => {
    const token = tokens[at++]
    if (token === '-') return -factor()
    if (token === '+') return factor()
    if (token === '(') {
      const inner = sum()
      return tokens[at++] === ')' ? inner : NaN
    }
    return token === undefined ? NaN : Number(token)
  }
  const product = (): number => {
    let value = factor()
    while (tokens[at] === '*' || tokens[at] === '/') value = tokens[at++] === '*' ? value * factor() : value / factor()
    return value
  }
  const sum = (): number => {
    let value = product()
    while (tokens[at] === '+' || tokens[at] === '-')
      value = tokens[at++] === '+' ? value + product() : value - product()
    return value
  }
  const value = sum()
  return at === tokens.length && Number.isFinite(value) ? value : null
}
