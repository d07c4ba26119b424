package web

import (
	"net/http"
	"strconv"

	"github.com/gin-gonic/gin"

	"velvetroad/core/option"
	"velvetroad/core/units"
)

// volts is the page that holds 12, 24 and 48 V side by side for this job.
func (s *server) volts(c *gin.Context) {
	v, err := s.jobView(c, "volts", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	v.Load = option.Load{Inverter: 2000, Cable: v.Doc.Units.Near(1500)}
	if x, err := strconv.ParseFloat(c.Query("inverter"), 64); err == nil && x >= 0 && x <= 12_000 {
		v.Load.Inverter = units.Watt(x)
	}
	if m, err := units.Parse(c.Query("cable"), v.Doc.Units); err == nil && m >= 100 && m <= 10_000 {
		v.Load.Cable = m
	} else if c.Query("cable") != "" {
		v.Problems = []string{"Write the inverter's cable as a length from 100 mm to 10 m, as 1.5 m or 5'."}
	}
	v.Load.Hydro = c.Query("hydro") != ""
	s.render(c, http.StatusOK, "job", v)
}
