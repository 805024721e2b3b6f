/**
 * Gamma distribution, for counts too small for a normal range. Series and continued fraction of the incomplete gamma
 * function as in Numerical Recipes (gser, gcf); the quantile by bisection.
 */

const LANCZOS = [
  676.5203681218851, -1259.1392167224028, 771.3234287776531, -176.6150291621406, 12.507343278686905, -0.13857109526572012,
  9.984369578019572e-6, 1.5056327351493116e-7
]

/** Natural logarithm of the gamma function, x > 0. */
function logGamma(x: number): number {
  if (x < 0.5) return Math.log(Math.PI / Math.sin(Math.PI * x)) - logGamma(1 - x)
  const y = x - 1
  const sum = LANCZOS.reduce((total, c, n) => total + c / (y + n + 1), 0.9999999999998099)
  const t = y + 7.5
  return 0.5 * Math.log(2 * Math.PI) + (y + 0.5) * Math.log(t) - t + Math.log(sum)
}

/** Regularised lower incomplete gamma function P(shape, x). */
export function gammaShare(shape: number, x: number): number {
  if (x <= 0) return 0
  const front = Math.exp(-x + shape * Math.log(x) - logGamma(shape))
  if (x < shape + 1) {
    let term = 1 / shape
    let sum = term
    for (let n = 1; n < 500 && term > sum * 1e-14; n++) sum += term *= x / (shape + n)
    return Math.min(1, sum * front)
  }
  let b = x + 1 - shape
  let c = 1e300
  let d = 1 / b
  let h = d
  for (let n = 1; n < 500; n++) {
    const a = -n * (n - shape)
    b += 2
    d = 1 / (a * d + b)
    c = b + a / c
    h *= d * c
    if (Math.abs(d * c - 1) < 1e-14) break
  }
  return Math.max(0, 1 - front * h)
}

/** Value under which the share lies, for a gamma distribution of a shape and scale. */
export function gammaQuantile(share: number, shape: number, scale: number): number {
  let low = 0
  let high = shape + 10 * Math.sqrt(shape) + 20
  for (let n = 0; n < 80; n++) {
    const middle = (low + high) / 2
    if (gammaShare(shape, middle) < share) low = middle
    else high = middle
  }
  return ((low + high) / 2) * scale
}
