import { createClient, type Client } from '@kleidon/client';

/** The service that serves this console. */
export const client: Client = createClient(location.origin);
