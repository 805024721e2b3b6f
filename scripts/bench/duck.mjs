import { DuckDBInstance } from '@duckdb/node-api'

/**
 * The same questions in a column database, as well as we know how: one filter over small integer columns, membership by
 * a bit test on a constant, the rolling cap by a fold over each person's list, and only for people whose cap can bind.
 */
export async function openDuck() {
  const instance = await DuckDBInstance.create(':memory:', { threads: '2' })
  const connection = await instance.connect()
  return {
    /** @param {string} sql */
    run: (sql) => connection.run(sql),
    /** @param {string} sql @returns {Promise<any[]>} */
    rows: async (sql) => (await connection.runAndReadAll(sql)).getRowObjects(),
    /** @param {string} table @param {Record<string, { type: string, values: ArrayLike<number> }>} columns */
    load: async (table, columns) => {
      const names = Object.keys(columns)
      await connection.run(`CREATE TABLE ${table} (${names.map((name) => `${name} ${columns[name].type}`).join(', ')})`)
      const appender = await connection.createAppender(table)
      const count = columns[names[0]].values.length
      for (let i = 0; i < count; i++) {
        for (const name of names) {
          const { type, values } = columns[name]
          if (type === 'UTINYINT') appender.appendUTinyInt(values[i])
          else if (type === 'USMALLINT') appender.appendUSmallInt(values[i])
          else appender.appendUInteger(values[i])
        }
        appender.endRow()
      }
      appender.closeSync()
    },
    close: () => connection.closeSync()
  }
}

/** Bits of a set as a constant that one test reads. @param {string} column @param {number[]} values */
const inSet = (column, values) => {
  const low = values.filter((value) => value < 63)
  return `((CAST(${low.reduce((bits, value) => bits | (1n << BigInt(value)), 0n)} AS UBIGINT) >> ${column}) & 1) = 1`
}

/**
 * Matches, wins, spend, reach and frequency of two weeks, with an exact rolling cap.
 * @param {{ where: number[] | null, device: number[] | null, shape: number[] | null, bid: number, cap: { times: number,
 * minutes: number } | null }} question
 */
export function questionSql({ where, device, shape, bid, cap }) {
  const tests = [where && inSet('country', where), device && inSet('device', device), shape && inSet('shape', shape)].filter(Boolean)
  const filter = tests.length > 0 ? `WHERE ${tests.join(' AND ')}` : ''
  const price = `CASE WHEN first_price = 1 THEN ${bid} ELSE greatest(floor, rival) END`
  const won = `${bid} >= floor AND ${bid} > rival`
  if (!cap) {
    return `WITH people AS (SELECT person, week, count(*) AS matched, count(*) FILTER (${won}) AS wins, sum(${price}) FILTER (${won}) AS spend FROM tape ${filter} GROUP BY person, week)
      SELECT sum(matched)::BIGINT AS matched, sum(wins)::BIGINT AS wins, sum(spend)::BIGINT AS spend, count(*) FILTER (wins > 0) AS reach, histogram(least(wins, 10)) FILTER (wins > 0) AS frequency FROM people`
  }
  // Each win is one number of minute, place among the person's rows and price, so that lists sort and fold cheaply.
  return `WITH people AS (
      SELECT person, week, count(*) AS matched, count(*) FILTER (${won}) AS could, list(((minute::BIGINT << 10) + nth) * 1048576 + ${price}) FILTER (${won}) AS entries FROM tape ${filter} GROUP BY person, week),
    folded AS (
      SELECT matched, CASE WHEN could = 0 THEN []::BIGINT[] WHEN could <= ${cap.times} THEN entries
        ELSE list_reduce(list_transform(list_sort(entries), e -> [e]), (taken, e) -> CASE
          WHEN len(taken) >= ${cap.times} AND (e[1] >> 30) - (taken[len(taken) - ${cap.times - 1}] >> 30) < ${cap.minutes} THEN taken ELSE list_concat(taken, e) END) END AS taken FROM people)
    SELECT sum(matched)::BIGINT AS matched, sum(len(taken))::BIGINT AS wins, sum(list_sum(list_transform(taken, e -> e & 1048575)))::BIGINT AS spend, count(*) FILTER (len(taken) > 0) AS reach,
      histogram(least(len(taken), 10)) FILTER (len(taken) > 0) AS frequency FROM folded`
}

/**
 * The question that the bounds were set with: 2,000,000 rows of 200,000 people, seven dimensions, all outputs.
 * @param {Awaited<ReturnType<typeof openDuck>>} duck
 */
export async function anchorTimes(duck, rounds = 5) {
  await duck.run(`CREATE TABLE anchor AS SELECT (hash(i) % 200000)::UINTEGER AS person, (hash(i + 1) % 10080)::USMALLINT AS minute, (hash(i + 2) % 24)::UTINYINT AS d1, (hash(i + 3) % 6)::UTINYINT AS d2,
    (hash(i + 4) % 12)::UTINYINT AS d3, (hash(i + 5) % 60)::UTINYINT AS d4, (hash(i + 6) % 8)::UTINYINT AS d5, (hash(i + 7) % 5)::UTINYINT AS d6, (hash(i + 8) % 1200)::USMALLINT AS placement,
    (hash(i + 9) % 6000)::UINTEGER AS rival, (hash(i + 10) % 900)::UINTEGER AS floor, (hash(i + 11) % 2)::UTINYINT AS first_price FROM range(2000000) t(i) ORDER BY person, minute`)
  const question = (
    /** @type {string} */ filter
  ) => `WITH matched AS MATERIALIZED (SELECT person, minute, placement, floor, rival, (2400 >= floor AND 2400 > rival) AS won, CASE WHEN first_price = 1 THEN 2400 ELSE greatest(floor, rival) END AS price FROM anchor ${filter}),
      people AS (SELECT count(*) FILTER (won) AS wins FROM matched GROUP BY person)
    SELECT (SELECT count(*) FROM matched), (SELECT sum(price) FROM matched WHERE won), (SELECT count(*) FROM people WHERE wins > 0), (SELECT histogram(least(wins, 10)) FROM people),
      (SELECT histogram(greatest(floor, rival) // 64) FROM matched), (SELECT histogram(placement) FROM matched WHERE won), (SELECT histogram(minute // 60) FROM matched WHERE won)`
  const time = async (/** @type {string} */ filter) => {
    const times = []
    for (let n = 0; n <= rounds; n++) {
      const began = performance.now()
      await duck.rows(question(filter))
      if (n > 0) times.push(performance.now() - began)
    }
    return times.sort((a, b) => a - b)[Math.floor(times.length / 2)]
  }
  const narrow = await time(
    `WHERE ${inSet('d1', [1, 2, 3, 4, 5])} AND ${inSet('d2', [0, 1, 2])} AND ${inSet('d3', [1, 4, 7, 9, 10, 11])} AND ${inSet('d4', [1, 5, 9, 20, 30, 31, 32, 33, 34, 35, 36, 37, 38, 39, 40, 41, 42, 43])} AND ${inSet('d5', [0, 1, 2, 3, 4])} AND ${inSet('d6', [0, 1, 2, 3])} AND placement < 1080`
  )
  return { narrow, wide: await time('') }
}
