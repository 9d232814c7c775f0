package plan

import (
	"slowreveal/core/assembly"
	"slowreveal/core/reveal"
	"slowreveal/core/space"
)

// Choices say what is wanted of a plan; the zero value is the usual one.
type Choices struct {
	// Reach is the part or subassembly that is to be got at, with as few removals as can be found; empty for taking
	// everything apart.
	Reach assembly.NodeID `json:"reach,omitempty"`
	// Stays stay where they are; without any, the part that is large and touches most.
	Stays []assembly.NodeID `json:"stays,omitempty"`
	// Whole are subassemblies that are not taken apart.
	Whole []assembly.NodeID `json:"whole,omitempty"`
	// Prefer and Avoid are directions of the world (+Y is up, +Z to the front) that are tried first, and those that are
	// not taken.
	Prefer []space.Vec3 `json:"prefer,omitempty"`
	Avoid  []space.Vec3 `json:"avoid,omitempty"`
	// Fade lets parts fade away when they have left, so that they need not stand clear of what leaves later.
	Fade bool `json:"fade,omitempty"`
	// Spacing is the gap that is left between parts, mm; 0 for a share of the assembly's size.
	Spacing float64 `json:"spacing,omitempty"`
	// Given are moves that come first, in this order: what an author has put into order, turned or locked.
	Given []Given `json:"given,omitempty"`
	// Without are parts and subassemblies that are left where they are.
	Without []assembly.NodeID `json:"without,omitempty"`
}

// Given is a move that the author wants so.
type Given struct {
	Nodes []assembly.NodeID `json:"nodes"`
	// Along is the direction, in the assembly's axes; nil for the one that the plan finds.
	Along *space.Vec3 `json:"along,omitempty"`
}

// Plan is in which order, in which directions and how far parts leave an assembly.
type Plan struct {
	Moves []Move `json:"moves"`
	// Stays are the parts that stay where they are, and Stuck those of them that cannot leave.
	Stays []assembly.NodeID `json:"stays"`
	Stuck []Stuck           `json:"stuck,omitempty"`
	// Asked is how often it was asked how far a part goes before it touches another one; Parts is how many parts there
	// are.
	Asked int `json:"asked"`
	Parts int `json:"parts"`
	// Fade says that parts fade away when they have left.
	Fade bool `json:"fade,omitempty"`
	// Complete says that all moves are there, with their distances.
	Complete bool `json:"complete,omitempty"`
	// Proven says that all of it has been looked at as one film: nothing goes into anything but where a move says so.
	Proven bool `json:"proven,omitempty"`
	// Spacing is the gap that was left between parts, mm.
	Spacing float64 `json:"spacing"`
	// Eyes is how the camera is turned for moves, by a node of what is looked at: where the usual way sees too little.
	Eyes map[assembly.NodeID]space.Quat `json:"eyes,omitempty"`
}

// Move takes one part or subassembly, or several that are alike, from its place.
type Move struct {
	Nodes []assembly.NodeID `json:"nodes"`
	// Paths are the ways of the nodes, in their order.
	Paths []Path `json:"paths"`
	// Thread says that they are unscrewed along the first leg.
	Thread *Thread `json:"thread,omitempty"`
	// Swing turns them before they go, or on the way.
	Swing *Swing `json:"swing,omitempty"`
	// Carried is the number of the move that has taken them along before, −1 for none.
	Carried int `json:"carried"`
	// Fastener is what kind of fastener they are, empty for other parts.
	Fastener string `json:"fastener,omitempty"`
	// Beside are what they have been taken from: the parts that they touched.
	Beside []assembly.NodeID `json:"beside,omitempty"`
	// Title and Instruction are the words of its step, Tools what it takes.
	Title       string   `json:"title"`
	Instruction string   `json:"instruction"`
	Tools       []string `json:"tools,omitempty"`
	// Why tells why it comes now and goes this way.
	Why []string `json:"why"`
	// Others are the directions that were looked at beside its own, for its first node.
	Others []Other `json:"others,omitempty"`
	// Collides is what a move that the author has given goes into, empty where it is free.
	Collides assembly.NodeID `json:"collides,omitempty"`
	// Given says that the author wants it so.
	Given bool `json:"given,omitempty"`
}

// Path is how one node goes: straight legs, one after the other, with directions of unit length in the assembly's axes.
type Path struct {
	Legs []reveal.Leg `json:"legs"`
}

// Thread is what a fastener is screwed into.
type Thread struct {
	Turns float64 `json:"turns"`
	Lead  float64 `json:"lead"` // mm a turn
	// Along and Pivot are the axis, in the own axes of the nodes: the way out, and a point of it, mm.
	Along space.Vec3 `json:"along"`
	Pivot space.Vec3 `json:"pivot"`
}

// Swing is a turn about an axis, in the assembly's axes, as the parts stand before the move.
type Swing struct {
	About   space.Vec3 `json:"about"`
	Pivot   space.Vec3 `json:"pivot"`
	Degrees float64    `json:"degrees"`
	// After is how many legs of their paths come before it; the pivot goes along with them.
	After int `json:"after,omitempty"`
}

// Other is a direction that was not taken.
type Other struct {
	Along space.Vec3 `json:"along"`
	Label string     `json:"label"`
	// Blocked is what stands in the way, empty where it is free; Far is how far it goes until then, mm.
	Blocked assembly.NodeID `json:"blocked,omitempty"`
	Far     float64         `json:"far,omitempty"`
	// Out is how far it would have to go to be clear of the others, mm.
	Out float64 `json:"out,omitempty"`
}

// Stuck is a part or subassembly that cannot leave, and why.
type Stuck struct {
	Node assembly.NodeID `json:"node"`
	Says string          `json:"says"`
}
