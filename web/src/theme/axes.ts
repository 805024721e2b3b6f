/** The axis of what is counted: from nothing on, with few lines. @param words how a tick is written */
export const valueAxis = (words: (value: number) => string, most = 4) => ({
  beginAtZero: true,
  border: { display: false },
  grid: { color: '#dcdfd9' },
  ticks: { maxTicksLimit: most, callback: (value: number | string) => words(Number(value)) }
})
