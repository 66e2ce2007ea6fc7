/** Work that goes on somewhere else. */
export interface Running<T> {
  done: Promise<T>;
  cancel: () => void;
}

/** Whether it ended because it was called off. */
export const isCancelled = (e: unknown): boolean => (e as { code?: string }).code === 'cancelled';
