/** Most addresses that a discovery tries of a range. */
export const MOST_TRIED = 1024
