package web

import (
	"velvetroad/web/page"
	"velvetroad/web/page/cables"
	"velvetroad/web/page/controllers"
	"velvetroad/web/page/holes"
	"velvetroad/web/page/roof"
	stringstage "velvetroad/web/page/strings"
)

// stages are the pages of the road's stages.
var stages = []page.Stage{roof.Stage, stringstage.Stage, controllers.Stage, holes.Stage, cables.Stage}
