import type { RequestHandler, Router } from 'express';
import { onlyMethods } from './problem.ts';

type Method = 'get' | 'post' | 'put' | 'patch' | 'delete';

/** Registers the methods of one address, and a clear answer for all others. */
export function registerRoute(
  router: Router,
  path: string,
  handlers: Partial<Record<Method, RequestHandler>>,
): void {
  const methods = Object.keys(handlers) as Method[];
  for (const method of methods) router[method](path, handlers[method]!);
  router.all(path, onlyMethods(...methods.map((method) => method.toUpperCase())));
}
