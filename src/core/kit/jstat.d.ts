declare module "jstat" {
  const jstat: {
    /** Solves linear equations; the right side is a column. Changes the rows of the matrix. */
    gauss_elimination(matrix: number[][], right: number[][]): number[];
    studentt: {
      /** The p-quantile of Student's t distribution. */
      inv(p: number, degrees: number): number;
    };
    normal: {
      /** The p-quantile of a normal distribution. */
      inv(p: number, mean: number, deviation: number): number;
    };
  };
  export default jstat;
}
