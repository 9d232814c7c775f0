package fastener

// Thread is a metric thread with its coarse lead: a single-start thread advances
// by its pitch with each turn.
type Thread struct {
	Name     string  `json:"name"`
	Diameter float64 `json:"diameter"` // nominal, mm
	Lead     float64 `json:"lead"`     // mm a turn
}

// Coarse are the coarse metric threads by ascending diameter. Source: ISO 261
// and ISO 262, from memory.
var Coarse = []Thread{
	{
		"M1.6",
		1.6,
		0.35,
	}, {"M2", 2, 0.4}, {"M2.5", 2.5, 0.45}, {"M3", 3, 0.5}, {"M4", 4, 0.7}, {"M5", 5, 0.8}, {"M6", 6, 1},
	{"M8", 8, 1.25}, {"M10", 10, 1.5}, {"M12", 12, 1.75}, {"M16", 16, 2}, {"M20", 20, 2.5}, {"M24", 24, 3},
}
