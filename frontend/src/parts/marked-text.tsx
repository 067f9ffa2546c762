import type { Piece } from '../thinking/marks'

// A value in its own direction, whatever is written around it.
export function MarkedText({ pieces }: { pieces: Piece[] }) {
  return (
    <bdi>
      {pieces.map((piece, i) => (piece.marked ? <mark key={i}>{piece.text}</mark> : <span key={i}>{piece.text}</span>))}
    </bdi>
  )
}
