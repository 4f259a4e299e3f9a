// A worker thread starts from JavaScript; from here on TypeScript is read as everywhere else.
import { register } from 'tsx/esm/api';

register();
await import('./worker.ts');
