import { createClient } from '@kleidon/client';

/** The service that serves this console. */
export const client = createClient('');
