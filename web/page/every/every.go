// Package every lists the pages.
package every

import (
	"velvetroad/web/page"
	"velvetroad/web/page/ask"
	"velvetroad/web/page/build"
	"velvetroad/web/page/cables"
	"velvetroad/web/page/controllers"
	"velvetroad/web/page/curves"
	"velvetroad/web/page/diary"
	"velvetroad/web/page/equipment"
	"velvetroad/web/page/goods"
	"velvetroad/web/page/handover"
	"velvetroad/web/page/history"
	"velvetroad/web/page/holes"
	"velvetroad/web/page/layouts"
	"velvetroad/web/page/markout"
	"velvetroad/web/page/materials"
	"velvetroad/web/page/papers"
	"velvetroad/web/page/parts"
	"velvetroad/web/page/people"
	"velvetroad/web/page/pocket"
	"velvetroad/web/page/power"
	"velvetroad/web/page/practice"
	"velvetroad/web/page/printed"
	"velvetroad/web/page/proving"
	"velvetroad/web/page/record"
	"velvetroad/web/page/registry"
	"velvetroad/web/page/roof"
	"velvetroad/web/page/sheet"
	"velvetroad/web/page/strings"
	"velvetroad/web/page/survey"
	"velvetroad/web/page/volts"
	"velvetroad/web/page/wirings"
)

// Stage are the stages of the road in its order, the pages beside it, then those that stand alone.
var Stage = []page.Stage{
	ask.Stage, survey.Stage, roof.Stage, strings.Stage, controllers.Stage, holes.Stage, cables.Stage, power.Stage, build.Stage, proving.Stage, record.Stage,
	layouts.Stage, markout.Stage, wirings.Stage, curves.Stage, volts.Stage, practice.Stage, materials.Stage, equipment.Stage, history.Stage,
	printed.Stage, handover.Stage, papers.Stages[0], papers.Stages[1], papers.Stages[2], papers.Stages[3], parts.Stage, pocket.Stage, sheet.Stage, people.SignInStage, people.JoinStage, people.PeopleStage, people.AuditStage, registry.Stage, registry.RigStage, diary.Stage, diary.DayStage, goods.Stage, goods.LoadStage, goods.ItemStage, goods.OrdersStage, goods.CountStage,
}
