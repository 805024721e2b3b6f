import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'

/** Folder of the project. */
export const ROOT = dirname(dirname(fileURLToPath(import.meta.url)))

/**
 * @param {...string} parts
 * @returns {string} a path inside the project
 */
export const inProject = (...parts) => join(ROOT, ...parts)
