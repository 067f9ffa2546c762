import type { Piece } from '../thinking/marks'

export function MarkedText({ pieces }: { pieces: Piece[] }) {
  return pieces.map((piece, i) =>
    piece.marked ? <mark key={i}>{piece.text}</mark> : <span key={i}>{piece.text}</span>,
  )
}
