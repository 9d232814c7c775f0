package removal

func (s *search) turned(node, stays int) *removal { return nil }
