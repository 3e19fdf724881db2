export { startService, type ServeOptions, type Service } from './serve.ts';
