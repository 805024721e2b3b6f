export const name = '0007-deal-facts'

/** What an office is told of the price was always what wins half; questions that wait for an answer keep it under its name. */
export const statements = [
  "UPDATE deal_request SET facts = JSON_SET(JSON_REMOVE(facts, '$.meanMicros'), '$.halfMicros', JSON_VALUE(facts, '$.meanMicros') + 0) WHERE JSON_EXISTS(facts, '$.meanMicros')"
]
