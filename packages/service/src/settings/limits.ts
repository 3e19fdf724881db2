/** How much of a gateway one client may take, and all of them together. */
export interface Limits {
  /** Requests to the website at one time, and those of one client. */
  readonly connections: number;
  readonly connectionsPerClient: number;
  /** Event streams and WebSockets at one time, and those of one client. */
  readonly streams: number;
  readonly streamsPerClient: number;
  /** How long a request waits for its turn, in milliseconds. */
  readonly queueTimeout: number;
  /** Bytes a second that an upload must bring on average, or a reader take. */
  readonly minimumRate: number;
}
