export const name = '0018-ads-of-parts'

/**
 * Native ads have a short headline and a long one, and a brand: what was a title is both, what was too long stays as it is and is told.
 * Tags remember what they reached for. Films that browsers do not play have one that stands in for them.
 */
export const statements = [
  'ALTER TABLE stored_file ADD COLUMN IF NOT EXISTS proxy CHAR(64) NULL, ADD COLUMN IF NOT EXISTS replaced_by INT NULL',
  'ALTER TABLE made_creative ADD COLUMN IF NOT EXISTS calls LONGTEXT NULL',
  `UPDATE made_creative SET parts = JSON_REMOVE(
     JSON_SET(parts,
       '$.headline', JSON_VALUE(parts, '$.title'),
       '$.longHeadline', JSON_VALUE(parts, '$.title'),
       '$.brand', JSON_VALUE(parts, '$.sponsor')),
     '$.title', '$.sponsor')
   WHERE kind = 'native' AND JSON_EXISTS(parts, '$.title')`
]
