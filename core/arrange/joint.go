package arrange

import (
	"errors"
	"fmt"
	"slices"

	"slowreveal/core/assembly"
)

// jointLabel says what an edit does to joints.
func (s *Edit) jointLabel() string {
	switch n, m := len(s.Joints), len(s.Couplings); {
	case n == 1 && m == 0:
		return fmt.Sprintf("Joint %q", s.Joints[0].Name)
	case n == 0 && m == 1:
		return fmt.Sprintf("Coupling %q", s.Couplings[0].Name)
	default:
		return fmt.Sprintf("%d joints, %d couplings", n, m)
	}
}

// join puts joints and couplings in the place of those with their ids, or behind all others. What they name is checked
// with the whole assembly.
func (w *work) join(s *Edit) error {
	if len(s.Joints)+len(s.Couplings) == 0 {
		return errors.New("no joint is named")
	}
	for i := range s.Joints {
		j := s.Joints[i]
		if err := j.Check(); err != nil {
			return fmt.Errorf("joint %q: %w", j.Name, err)
		}
		if at := slices.IndexFunc(w.joints, func(o assembly.Joint) bool { return o.ID == j.ID }); at >= 0 {
			w.joints[at] = j
		} else {
			w.joints = append(w.joints, j)
		}
	}
	for i := range s.Couplings {
		c := s.Couplings[i]
		if err := c.Check(); err != nil {
			return fmt.Errorf("coupling %q: %w", c.Name, err)
		}
		if at := slices.IndexFunc(w.couplings, func(o assembly.Coupling) bool { return o.ID == c.ID }); at >= 0 {
			w.couplings[at] = c
		} else {
			w.couplings = append(w.couplings, c)
		}
	}
	return nil
}

// leaveGroup lets what moves on a group that goes move on what holds that. A group that a joint moves has to stay: it
// moves as one.
func (w *work) leaveGroup(n *node) error {
	for i := range w.joints {
		if j := &w.joints[i]; j.Body == n.ID {
			return fmt.Errorf("the joint %q moves %q as one: keep the group, or remove the joint first", j.Name, n.Name)
		}
	}
	for i := range w.joints {
		if j := &w.joints[i]; j.Base == n.ID {
			j.Base = n.parent.ID
		}
	}
	return nil
}

// unjoint takes joints and couplings away, and couplings of joints that went.
func (w *work) unjoint(s *Edit) error {
	if len(s.JointIDs) == 0 {
		return errors.New("no joint is named")
	}
	for _, id := range s.JointIDs {
		joints, couplings := len(w.joints), len(w.couplings)
		w.joints = slices.DeleteFunc(w.joints, func(j assembly.Joint) bool { return j.ID == id })
		w.couplings = slices.DeleteFunc(w.couplings, func(c assembly.Coupling) bool {
			return c.ID == id || joints > len(w.joints) && (c.Joint == id || c.By == id)
		})
		if joints == len(w.joints) && couplings == len(w.couplings) {
			return fmt.Errorf("there is no joint %q", id)
		}
	}
	return nil
}
