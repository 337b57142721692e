#include "door.h"

#include "playback.h"
#include "session.h"

rp_door *rp_door_open(const rp_door_setup *setup, GError **error)
{
    return setup->recording ? playback_open(setup, error) : session_open(setup, error);
}

void rp_door_end(rp_door *door, rp_door_result *result)
{
    rp_door_result unwanted;
    door->is->end(door, result ? result : &unwanted);
    if (!result) {
        g_free(unwanted.complaint);
    }
}

bool rp_door_run(const rp_door_setup *setup, rp_door_result *result, GError **error)
{
    rp_door *door = rp_door_open(setup, error);
    if (door) {
        rp_door_end(door, result);
    }
    return door != NULL;
}

const char *rp_door_refuses(const rp_door *door, rp_command_kind what)
{
    return door->is->refuses(door, what);
}

rp_status rp_door_ask(rp_door *door, const rp_command *command)
{
    const rp_status status = rp_command_check(door->rig->image, command);
    if (status != RP_OK) {
        return status;
    }
    return rp_door_refuses(door, command->what) ? RP_E_UNSUPPORTED : door->is->ask(door, command);
}

bool rp_door_advance(rp_door *door, uint64_t until_us)
{
    return door->is->advance ? door->is->advance(door, until_us) : false;
}

bool rp_door_over(const rp_door *door)
{
    return door->is->over(door);
}

void rp_door_stop(rp_door *door)
{
    door->is->stop(door);
}

void rp_door_pause(rp_door *door)
{
    door->is->pause(door);
}

void rp_door_go_on(rp_door *door)
{
    door->is->go_on(door);
}

rp_history *rp_door_look(rp_door *door)
{
    return door->is->look(door);
}

void rp_door_look_away(rp_door *door)
{
    door->is->look_away(door);
}

bool rp_door_mark(rp_door *door, const char *text)
{
    return door->is->mark ? door->is->mark(door, text) : false;
}

bool rp_door_record(rp_door *door, const char *name, char **taken, GError **error)
{
    if (!door->is->record) {
        g_set_error_literal(error, G_FILE_ERROR, G_FILE_ERROR_PERM, "nothing can be recorded here");
        return false;
    }
    return door->is->record(door, name, taken, error);
}

bool rp_door_is_recording(rp_door *door)
{
    return door->is->is_recording ? door->is->is_recording(door) : false;
}

char *rp_door_complaint(rp_door *door)
{
    return door->is->complaint ? door->is->complaint(door) : NULL;
}

rp_delay rp_door_delay(const rp_door *door)
{
    return door->is->delay ? door->is->delay(door) : (rp_delay){0};
}

bool rp_door_checkpoint(rp_door *door, void *memory, uint32_t bytes)
{
    return door->is->checkpoint ? door->is->checkpoint(door, memory, bytes) : false;
}

const char *rp_door_hand_unit(const rp_door *door, uint16_t sensor, const char **why)
{
    return door->is->hand_unit(door, sensor, why);
}

double rp_door_placing(const rp_door *door, uint16_t sensor)
{
    return door->is->placing ? door->is->placing(door, sensor) : 0.0;
}

bool rp_door_truth(const rp_door *door, uint32_t mechanism, uint32_t output, double *value)
{
    return door->is->truth ? door->is->truth(door, mechanism, output, value) : false;
}
