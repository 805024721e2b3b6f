/** Largest picture we take, in bytes: browsers and publishers refuse heavier ones. */
export const MOST_PICTURE_BYTES = 200 * 1024
/** Largest upload read at all. */
export const MOST_UPLOAD_BYTES = 8 * 1024 * 1024
