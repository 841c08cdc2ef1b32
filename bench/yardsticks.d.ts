/* eslint-disable @typescript-eslint/no-explicit-any -- stands in for packages that are not there */

/** Stands in for the yardsticks where they are not installed: `npm run check` looks at all of the bench but what they give. */
declare module "@duckdb/node-api" {
  export type DuckDBConnection = any;
  export const DuckDBInstance: any;
}
declare module "arquero";
