package server

import "yugen/people"

// rights says what each operation that is not merely looked at asks for. What reads asks for the right to look. An operation that changes something and is not here is
// nobody's, except of one who works alone.
var rights = map[string]people.Right{
	"session": people.Anyone, "signIn": people.Anyone, "signOut": people.Anyone, "installation": people.Anyone,

	"readTable": people.Look, "tryRemoval": people.Look, "tryMethod": people.Look, "wholeWay": people.Look, "readContents": people.Look, "preview": people.Look,
	"suggest": people.Look, "tryCurve": people.Look, "tryFields": people.Look, "renameField": people.Look, "drawLayout": people.Look, "useLayout": people.Look,
	"planSet": people.Look, "byPattern": people.Look, "identify": people.Look, "readLadder": people.Look, "checkLadder": people.Look, "tryProfile": people.Look,
	"changePassword": people.Look, "signOutEverywhere": people.Look, "newToken": people.Look, "endToken": people.Look,

	"startList": people.Work, "benchAct": people.Work, "benchFault": people.Work, "takeAsItIs": people.Work,
	"newBatch": people.Work, "openDemo": people.Work, "newTyped": people.Work, "changeEntries": people.Work, "reorder": people.Work, "remove": people.Work,
	"saveChoices": people.Work, "useEarlier": people.Work, "addEdit": people.Work, "takeBack": people.Work, "settle": people.Work, "undo": people.Work, "redo": people.Work,
	"keepReport": people.Work, "stopJob": people.Work, "pauseJob": people.Work, "continueJob": people.Work, "putJobFirst": people.Work, "processAgain": people.Work,
	"markTrends": people.Work, "unmarkTrends": people.Work, "limitTrends": people.Work, "makeSet": people.Work,
	"haltSet": people.Work, "goOn": people.Work, "release": people.Work, "makeAgain": people.Work, "deliver": people.Work, "take": people.Work, "putBack": people.Work,
	"waitFor": people.Work, "setColumns": people.Work, "join": people.Work, "part": people.Work, "rejectName": people.Work, "decideScreening": people.Work,
	"resolveBatch": people.Work, "giveNumber": people.Work, "setStretches": people.Work, "putComponentAside": people.Work, "importFile": people.Work, "lookAt": people.Work,

	"saveMethod": people.Develop, "takeProcessed": people.Develop, "keepWay": people.Develop, "chooseSignal": people.Develop, "addChannel": people.Develop, "removeChannel": people.Develop,
	"nameComponent": people.Develop,

	"keepFieldSet": people.Arrange, "putFieldSetAway": people.Arrange, "keepLayout": people.Arrange, "putLayoutAway": people.Arrange, "keepProfile": people.Arrange,
	"dropProfile": people.Arrange, "keepView": people.Arrange, "dropView": people.Arrange, "keepLadder": people.Arrange, "keepIonList": people.Arrange,
	"addSpectrum": people.Arrange, "putSpectrumAway": people.Arrange, "takeLibrary": people.Arrange,

	"changeShelf": people.PutAway,

	"judge": people.Review, "unlock": people.Review, "sign": people.Look, "approve": people.Approve, // what a signature means wants its own right

	"backup": people.Keep, "check": people.Keep, "people": people.Keep, "addPerson": people.Keep, "changePerson": people.Keep, "changeSettings": people.Keep,
}

// rightFor is what an operation asks for, and whether anybody who signs in may have it.
func rightFor(id, method string) (people.Right, bool) {
	r, there := rights[id]
	if !there && method == "GET" {
		return people.Look, true
	}
	return r, there
}
