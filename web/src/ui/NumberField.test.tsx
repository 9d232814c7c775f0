// @vitest-environment jsdom
import { act, screen, waitFor } from '@testing-library/react'
import { userEvent } from '@testing-library/user-event'
import { useState } from 'react'
import { afterEach, beforeEach, expect, test, vi } from 'vitest'
import { closed, opened, shown } from '../session/fakePage'
import { written } from '../core/written'
import { NumberField, NumbersField } from './NumberField'

const field = () => screen.getByLabelText<HTMLInputElement>('Distance')
const write = async (text: string) => {
  await userEvent.click(field())
  await userEvent.keyboard(`{Control>}a{/Control}${text.replace(/[{[]/g, '$&$&')}{Enter}`)
}

let set: (v: number) => void
function Held({ took, first = 10 }: { took(v: number): void; first?: number }) {
  const [v, setV] = useState(first)
  set = setV
  return (
    <NumberField
      label="Distance"
      quantity="length"
      value={v}
      onChange={(x) => {
        took(x)
        setV(x)
      }}
    />
  )
}

beforeEach(async () => void (await opened()))
afterEach(closed)

test.each([
  ['70', 70],
  ['2*35', 70],
  ['7 cm', 70],
  ['1 in', 25.4],
  ['12,5', 12.5],
  ['−3', -3],
  ['*2', 20],
])('“%s” is %d mm', async (text, mm) => {
  const took = vi.fn()
  shown(<Held took={took} />)
  await write(text)
  expect(took).toHaveBeenCalledExactlyOnceWith(mm)
  expect(field().value).toBe(written(mm, 'length'))
})

test('what is no number is said beside the field, and changes nothing', async () => {
  const took = vi.fn()
  shown(<Held took={took} />)
  await write('as far as it goes')
  expect(took).not.toHaveBeenCalled()
  expect(field().getAttribute('aria-invalid')).toBe('true')
  expect(screen.getByRole('alert').textContent).toMatch(/Type a number, such as/)
  expect(field().value, 'it can be mended').toBe('as far as it goes')
  await write('12')
  expect(took).toHaveBeenCalledExactlyOnceWith(12)
  expect(screen.queryByRole('alert')).toBeNull()
})

test('Escape leaves the number as it was', async () => {
  const took = vi.fn()
  shown(<Held took={took} />)
  await userEvent.click(field())
  await userEvent.keyboard('99{Escape}')
  await waitFor(() => expect(document.activeElement).not.toBe(field()))
  expect(took).not.toHaveBeenCalled()
  expect(field().value).toBe('10 mm')
})

test('leaving the field takes over what stands there, and a field that was only visited takes nothing', async () => {
  const took = vi.fn()
  shown(<Held took={took} />)
  await userEvent.click(field())
  await userEvent.tab()
  expect(took).not.toHaveBeenCalled()
  await userEvent.click(field())
  await userEvent.keyboard('33')
  await userEvent.tab()
  expect(took).toHaveBeenCalledExactlyOnceWith(33)
})

test('what others change meanwhile does not replace what is being typed', async () => {
  const took = vi.fn()
  shown(<Held took={took} />)
  await userEvent.click(field())
  await userEvent.keyboard('5')
  act(() => set(77))
  expect(field().value).toBe('5')
  await userEvent.keyboard('{Enter}')
  expect(took).toHaveBeenCalledExactlyOnceWith(5)
  act(() => set(78))
  expect(field().value, 'at rest it follows').toBe('78 mm')
})

test('a number that is not taken as it was typed shows what was taken', async () => {
  const least = vi.fn()
  function Bounded() {
    const [v, setV] = useState(10)
    return (
      <NumberField
        label="Distance"
        quantity="length"
        value={v}
        onChange={(x) => {
          least(x)
          setV(Math.max(x, 5))
        }}
      />
    )
  }
  shown(<Bounded />)
  await write('1')
  expect(least).toHaveBeenCalledWith(1)
  await waitFor(() => expect(field().value).toBe('5 mm'))
})

test('one field for several numbers: a number for all, or a change of each', async () => {
  const took = vi.fn()
  shown(<NumbersField label="Distance" quantity="length" values={[10, 20]} onChange={took} />)
  expect(field().value).toBe('several')
  expect(field().title).toMatch(/change of each/)
  await write('+5')
  expect(took).toHaveBeenLastCalledWith([15, 25])
  await write('*2')
  expect(took).toHaveBeenLastCalledWith([20, 40])
  await write('8')
  expect(took).toHaveBeenLastCalledWith([8, 8])
})
