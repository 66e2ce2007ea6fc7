/** Whether a job ended because it was called off. */
export const isCancelled = (e: unknown): boolean => (e as { code?: string }).code === 'cancelled';
