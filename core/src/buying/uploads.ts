/** Largest upload of a form, in bytes. */
export const MOST_UPLOAD_BYTES = 8 * 1024 * 1024
