/** A sum in words. @param amount in the smallest unit of the currency @param currency ISO 4217; empty while nothing is known */
export function sayMoney(amount: number, currency: string): string {
  if (!currency) return ''
  const format = new Intl.NumberFormat('en-GB', { style: 'currency', currency })
  return format.format(amount / 10 ** (format.resolvedOptions().maximumFractionDigits ?? 2))
}
