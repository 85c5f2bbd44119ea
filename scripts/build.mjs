/** `npm run build`: everything that `npm start` needs. */
import { build, installPackages } from './lib.mjs';

installPackages();
await build({ force: true });
