// Room in a table for rows that are not there, above or below those around the window.
export const Room = ({ height }: { height: number }) =>
  height > 0 && (
    <tr aria-hidden style={{ height }}>
      <td />
    </tr>
  )
