declare module "jstat" {
  const jstat: {
    /** Regularised lower incomplete gamma function P(a, x). */
    lowRegGamma(a: number, x: number): number;
    /** ln Γ(x). */
    gammaln(x: number): number;
    /** Inverse of P(a, x) in x. */
    gammapinv(p: number, a: number): number;
  };
  export default jstat;
}
