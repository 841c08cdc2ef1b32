// Serves a production build for the end-to-end tests, with the demo in the data folder that it was given.
import { serve } from "./lib.mjs";

serve({ standIns: true });
