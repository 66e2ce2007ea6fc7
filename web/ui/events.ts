/** What was chosen in a select, or typed into a field, that an event came from. */
export const chosenIn = (e: Event): string => (e.target as HTMLInputElement | HTMLSelectElement).value;

/** The files chosen in a file field; the field is emptied, so that the same file can be chosen again. */
export function filesIn(e: Event): File[] {
  const field = e.target as HTMLInputElement;
  const files = [...(field.files ?? [])];
  field.value = '';
  return files;
}
