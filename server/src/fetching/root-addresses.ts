/** Addresses from the root of a site lie elsewhere here: beside its page, or below its name. */
export const besideIt = (html: string, root = '') => html.replace(/(\s(?:src|href)\s*=\s*["']?)\/(?!\/)/gi, `$1${root}`)
