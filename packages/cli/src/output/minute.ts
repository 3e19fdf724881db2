/** A moment of the API as it stands in a terminal: to the minute, in UTC. */
export const minuteOf = (moment: string): string => `${moment.slice(0, 16).replace('T', ' ')}Z`;
