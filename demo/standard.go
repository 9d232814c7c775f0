package demo

// capScrew is a hexagon socket head cap screw by ISO 4762: the head stands on
// z = 0 and the shank points to −Z, so that +Z is the way out of the thread.
// Head diameter and height from ISO 4762; width across flats of the socket
// from the same table (all from memory).
type capScrew struct {
	d, head, flats, pitch float64
}

var (
	m3 = capScrew{d: 3, head: 5.5, flats: 2.5, pitch: 0.5}
	m4 = capScrew{d: 4, head: 7, flats: 3, pitch: 0.7}
)

func (s capScrew) body(length float64) *body {
	const n = 28
	shank, head, socket := circle(s.d/2, n), circle(s.head/2, n), hexagon(s.flats)
	rim := circle(s.head/2-0.25, n)
	b := new(body)
	b.cap(-length, false, circle(s.d/2-0.3, n))
	b.flank(n, point{s.d/2 - 0.3, -length}, point{s.d / 2, -length + 0.3})
	b.wall(shank, -length+0.3, 0, true).cap(0, false, head, shank)
	b.wall(head, 0, s.d-0.25, true)
	b.flank(n, point{s.head / 2, s.d - 0.25}, point{s.head/2 - 0.25, s.d})
	return b.cap(s.d, true, rim, socket).wall(socket, s.d*0.45, s.d, false).cap(s.d*0.45, true, socket)
}

// bearing is a deep groove ball bearing by its boundary dimensions (ISO 15),
// seen from outside: two rings and a shield. It lies on z = 0 … width.
func bearing(bore, outside, width float64) *body {
	step := (outside - bore) / 2
	b := new(body).ring(bore/2, bore/2+step*0.3, 0, width, 0.3, 40)
	b.ring(outside/2-step*0.3, outside/2, 0, width, 0.3, 40).patch()
	return b.ring(bore/2+step*0.3, outside/2-step*0.3, width*0.08, width*0.92, 0, 40)
}
