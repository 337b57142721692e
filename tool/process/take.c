/* Finds the loop that a model is made of, and takes its rows from a recording or from a test. */
#include "test.h"

#include "tool/names.h"
#include "tool/reading.h"
#include "tool/rigfile.h"

#include "explain/disassembly.h"
#include "rigpulse/edit.h"

#include <math.h>

/* ---- the loop -------------------------------------------------------------------------------------- */

static bool find_loop(subject *s, const char *path, const char *name)
{
    const rgp_image_header *image = s->rig->image;
    if (!names_loop_or_refuse(s->self, image, path, name, &s->number)) {
        return false;
    }
    s->loop = rgp_image_loop_at(image, s->number);
    const uint32_t actuator = rgp_image_actuator_slot(image, s->loop->actuator), measured = s->loop->measured;
    if (measured & RGP_REF_CONSTANT || !rgp_image_name_of(image, RGP_NAME_SLOT, measured, 0)) {
        return command_fails(
            s->self, "what '%s' measures has no name: put 'signal it = ...' before the loop, and measure 'it'", name);
    }
    rgp_decoded step;
    s->falls = rgp_disassembly_writer(image, s->loop->first, UINT32_MAX, &step) && step.op == RGP_OP_PID &&
               ((const rgp_pid_loop_config *)rgp_decoded_config(&step))->pid.reverse;
    s->name = name;
    s->measured = rgp_image_text(image, RGP_NAME_SLOT, measured, 0);
    s->measured_unit = rgp_image_unit(image, RGP_NAME_SLOT, measured, 0);
    rgp_threshold value;
    s->moved_unit = rgp_rig_threshold_template(s->rig, s->measured, &value) ? value.margin.unit : s->measured_unit;
    s->actuator = rgp_image_text(image, RGP_NAME_SLOT, actuator, 0);
    s->driven_unit = rgp_image_unit(image, RGP_NAME_SLOT, actuator, 0);
    return true;
}

/* ---- what was recorded ----------------------------------------------------------------------------- */

static bool read_recording(subject *s)
{
    g_autoptr(GError) error = NULL;
    rgp_recording *r = reading_whole(s->o->from, &error);
    if (!r) {
        return command_fails(s->self, "%s", error->message);
    }
    uint64_t from = 0, to = r->rows;
    bool sound = reading_moment(s->self, r, "--begin", s->o->begin, &from) &&
                 reading_moment(s->self, r, "--until", s->o->until, &to);
    if (sound && to <= from) {
        sound = command_fails(s->self, "there is nothing between --begin and --until");
    }
    sound = sound && subject_rows(s, r->history, from, to);
    rgp_recording_free(r);
    return sound;
}

/* ---- all of it ------------------------------------------------------------------------------------- */

static bool options_fit(const subject *s)
{
    const subject_options *o = s->o;
    if (o->from && (o->test || o->at || o->size || o->each || o->times || o->within || o->seed || o->fast)) {
        return command_fails(
            s->self, "--test, --at, --size, --each, --times, --within, --seed and --fast are of a test; a recording is "
                     "as it is");
    }
    return o->from || (!o->begin && !o->until) ||
           command_fails(s->self, "--begin and --until go with --from RECORDING");
}

bool subject_find(subject *s, const command *self, const subject_options *o, const char *path, const char *loop)
{
    *s = (subject){.self = self, .o = o, .measured_unit = "", .driven_unit = "", .moved_unit = ""};
    if (!options_fit(s)) {
        return false;
    }
    s->rig = rigfile_load(self, path);
    return s->rig && find_loop(s, path, loop);
}

bool subject_take(subject *s)
{
    return s->o->from ? read_recording(s) : test_run(s);
}
