declare module "jstat" {
  const jstat: {
    normal: {
      /** The p-quantile of a normal distribution. */
      inv(p: number, mean: number, deviation: number): number;
    };
  };
  export default jstat;
}
