package web

import (
	"net/http"
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"velvetroad/core/roof"
	"velvetroad/core/shade"
	"velvetroad/core/units"
	"velvetroad/web/page"
)

// curves is the page of the I-V and P-V curves under a sky set by sliders.
func (s *server) curves(c *gin.Context) {
	v, err := s.jobView(c, "curves", "")
	if err != nil {
		s.fail(c, err)
		return
	}
	number := func(key string, otherwise float64) float64 {
		if x, err := strconv.ParseFloat(c.Query(key), 64); err == nil {
			return x
		}
		return otherwise
	}
	v.Sky = shade.Sky{Sun: units.Irradiance(number("sun", 900)), Air: units.Celsius(number("air", 22)), Shaded: int(number("shaded", 0)), Depth: number("depth", 80) / 100}
	if side := slices.Index(page.SunSidesFrom, c.Query("from")); side >= 0 {
		v.Sky.Stands = &roof.Stand{High: number("high", 30), From: 90 * float64(side)}
	}
	v.Sky = v.Sky.Clamp()
	s.render(c, http.StatusOK, "job", v)
}
