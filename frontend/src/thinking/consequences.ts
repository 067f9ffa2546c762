// What a chain does to a collection, as its panel reads it.
import type { Figures } from '../api/chains'

// Whether the figures are of some records alone.
export const ofSample = (figures: Pick<Figures, 'records' | 'records_in_all'>) =>
  figures.records < figures.records_in_all

// What the index takes up, all its parts together.
export const totalOf = (bytes: Figures['index_bytes']) => Object.values(bytes).reduce((sum, part) => sum + part, 0)
