/** A container among those of all pods. */
export const containerKey = (podUid: string, container: string): string => `${podUid}/${container}`;
