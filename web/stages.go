package web

import (
	"velvetroad/web/page"
	"velvetroad/web/page/cables"
	"velvetroad/web/page/controllers"
	"velvetroad/web/page/holes"
	"velvetroad/web/page/record"
	"velvetroad/web/page/roof"
	stringstage "velvetroad/web/page/strings"
	"velvetroad/web/page/survey"
)

// stages are the pages of the road's stages.
var stages = []page.Stage{survey.Stage, roof.Stage, stringstage.Stage, controllers.Stage, holes.Stage, cables.Stage, record.Stage}
