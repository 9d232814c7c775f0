package plan

func (s *search) reach() {}

func (s *search) given() {}
