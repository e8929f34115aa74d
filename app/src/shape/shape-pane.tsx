import { errorSentence, type KeptProfile, listProfiles } from '@sober-prism/engine'
import { useCallback, useEffect, useState } from 'react'
import { interfaceActions } from '../store/interface-slice'
import { chosenNode } from '../store/selectors'
import { useAppDispatch, useAppSelector } from '../store/store'
import { BalanceAgainst } from './balance'
import { Compare } from './compare'
import { EvenOut } from './even-out'
import { Library } from './library'
import { OtherChain } from './other-chain'
import { PassageCheck } from './passage'
import { ResponsePair } from './response-pair'
import { VoiceChain } from './voice-chain'

/** What shapes the chosen node's tone: matching, balance, levelling, and the profiles to go by. */
export function ShapePane() {
  const node = useAppSelector(chosenNode)
  const dispatch = useAppDispatch()
  const [profiles, setProfiles] = useState<readonly KeptProfile[]>([])
  const read = useCallback(() => {
    listProfiles()
      .then(({ profiles: found }) => setProfiles(found))
      .catch((error) => dispatch(interfaceActions.noticeShown(errorSentence(error), 'warning')))
  }, [dispatch])
  useEffect(read, [read])
  return (
    <>
      <Compare key={`compare ${node}`} node={node} library={profiles} />
      <BalanceAgainst key={`balance ${node}`} node={node} library={profiles} />
      <EvenOut key={`even ${node}`} node={node} />
      <VoiceChain key={`voice ${node}`} node={node} />
      <OtherChain key={`other ${node}`} node={node} />
      <ResponsePair key={`responses ${node}`} node={node} />
      <PassageCheck />
      <Library node={node} profiles={profiles} onChange={read} />
    </>
  )
}
