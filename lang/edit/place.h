/* The place of a number in the source. */
#ifndef LANG_PLACE_H
#define LANG_PLACE_H

#include "lang/parse/tree.h"

#include "rigpulse/edit.h"

/* The place of a number that is used in `used`; of a parameter's initial value where a parameter may stand for it. */
rgp_place place_of(tree *t, const node *n, unit used, bool may_be_param);

/* rgp_edit_add() within a call that is ready for the arena to run out. */
const char *edit_add(rgp_rig *rig, const char *statement);

/* True for a stage whose settings are measured. */
bool calibration_is_measured(const char *word);

#endif
