package render

// maxSheets is how many see-through surfaces a pixel can hold; the farthest
// go first when there are more.
const maxSheets = 8

// sheet is what one see-through part adds to a pixel.
type sheet struct {
	depth float32 // 1/z: larger is nearer
	rgb   [3]float32
	alpha float32
}

// addSheets lays one see-through part, drawn into t.over, onto the pixels' lists of
// sheets. strips is the opacity of its edges.
func (r *Renderer) addSheets(t *tile, part int32, v *View, l *lights, box [4]int, strips float32) {
	w := &t.row
	facing := r.seen[part].facing
	for y := box[1]; y <= box[3]; y++ {
		w.points.n = 0
		n := 0
		dy := float32(v.Camera.tanV) - (float32(t.y0+y)+0.5)*r.rayDown
		for x := box[0]; x <= box[2]; {
			at := (y*tileSide + x) * samples
			o := (*[samples]int32)(t.over.owner[at:])
			same := 1
			switch {
			case o[0]|o[1]|o[2]|o[3] == nobody:
				x++
				continue
			case o[0] > 0 && *o == [samples]int32{o[0], o[0], o[0], o[0]}:
				for x+same <= box[2] && *(*[samples]int32)(t.over.owner[at+same*samples:]) == *o {
					same++
				}
				clear(w.rgb[3*x : 3*(x+same)])
				f := r.facetOf(t, o[0])
				w.points.addRun(f, r.rayAt(v, t.x0+x), r.rayAcross, dy, same, x)
				for i := range same {
					d := (*[samples]float32)(t.over.depth[at+i*samples:])
					w.sheets[x+i].alpha, w.sheets[x+i].depth = f.finish.opacity*facing, (d[0]+d[1]+d[2]+d[3])*(1.0/samples)
				}
			default:
				r.sheetAt(t, &w.sheets[x], o, (*[samples]float32)(t.over.depth[at:]), facing, strips, r.rayAt(v, t.x0+x), dy, x)
			}
			for i := range same {
				w.spread[n] = uint8(x + i)
				n++
			}
			x += same
		}
		if n == 0 {
			continue
		}
		w.points.shade(l)
		w.gather()
		t.pile(y, w.spread[:n])
	}
}

// pile adds a row's sheets to what is there; their colours are in rgb.
func (t *tile) pile(y int, spread []uint8) {
	t.covered[y] = true
	for _, x := range spread {
		s := &t.row.sheets[x&(tileSide-1)]
		if s.alpha > 0 {
			s.rgb = *t.row.at(int(x & (tileSide - 1)))
			t.insert(y*tileSide+int(x), s)
		}
	}
}

// sheetAt finds a part's sheet at a pixel that several of its faces share, all but its
// colour: for that points are noted, weighted by their opacities.
func (r *Renderer) sheetAt(t *tile, out *sheet, o *[samples]int32, depth *[samples]float32, facing, strips, dx, dy float32, x int) {
	w := &t.row
	var opacity [samples]float32
	var sum, deep, covered float32
	for s, id := range o {
		switch {
		case id > 0:
			opacity[s] = r.finishOf(id).opacity * facing
		case id < 0:
			opacity[s] = strips
		default:
			continue
		}
		sum, deep, covered = sum+opacity[s], deep+depth[s], covered+1
	}
	out.depth, out.alpha = deep/covered, sum/samples
	if sum == 0 {
		return
	}
	*w.at(x) = [3]float32{}
	for s := 0; s < samples; {
		id, n := o[s], float32(0)
		for ; s < samples && o[s] == id; s++ {
			n += opacity[s]
		}
		switch {
		case id > 0:
			w.points.add(r.facetOf(t, id), dx, dy, n/sum, x)
		case id < 0:
			w.add(x, &r.ink, n/sum)
		}
	}
}

// finishOf returns the finish of a triangle.
func (r *Renderer) finishOf(id int32) *surface {
	part := r.scene.partOf[id]
	seen := &r.seen[part]
	if len(seen.finishes) == 1 {
		return seen.finishes[0]
	}
	p := &r.scene.parts[part]
	return seen.finishes[patchOf(r.scene.shapes[p.shape].Patches, int(id)-p.first)]
}

// insert keeps a pixel's sheets sorted from near to far.
func (t *tile) insert(at int, s *sheet) {
	n := int(t.count[at])
	if n == maxSheets {
		if s.depth <= t.sheets[n-1][at].depth {
			return
		}
		n--
	}
	i := n
	for i > 0 && t.sheets[i-1][at].depth < s.depth {
		t.sheets[i][at] = t.sheets[i-1][at]
		i--
	}
	t.sheets[i][at] = *s
	t.count[at] = uint8(n + 1)
}
