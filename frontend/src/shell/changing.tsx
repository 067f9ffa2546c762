// What changes a collection: whoever may not sees it too, cannot press it, and is told whom it is for.
import type { ReactNode } from 'react'
import { useParams } from 'react-router'
import { FOR_WHOM } from '../thinking/people'
import { useRights } from './use-me'

// of: a collection, where it is not the one in the address.
export function Changing(props: { of?: string; needs?: keyof typeof FOR_WHOM; children: ReactNode }) {
  const here = useParams().collection
  const needs = props.needs ?? 'change'
  const may = useRights(props.of ?? here)[needs]
  return (
    <fieldset role="presentation" className="contents" disabled={!may} title={may ? undefined : FOR_WHOM[needs]}>
      {props.children}
    </fieldset>
  )
}
