/* A controller's stand: what it regulates, as a model has it, and its 'predict' line. */
#ifndef ANALYSIS_STAND_H
#define ANALYSIS_STAND_H

#include "margins.h"
#include "process.h"

#include "rigpulse/regulate/predict.h"

/* The model as one plant: with a second lag where that is the likelier one. */
rgp_plant rgp_process_plant(const rgp_process *model);

typedef struct rgp_stand {
    rgp_plant plant; /* as one that rises */
    rgp_ahead ahead; /* its 'predict' line, if it has one */
    double step;     /* seconds from one step of the loop to the next */
} rgp_stand;

/* `predict`: NULL: there is none. */
rgp_stand rgp_stand_of(const rgp_process *model, const rgp_predict_config *predict, double step);

/* Behind a 'predict' line the worst of three, since none fits to the end: as it is, and with a fifth more dead time and
 * a fifth less. */
rgp_margins rgp_stand_margins(const rgp_stand *on, const rgp_pid_gains *gains);

/* The 'predict' line that a plant makes: its second lag is shared out between the first one and the dead time (the half
 * rule: Skogestad 2003). Of an integral, the beginning of a lag, that lag is given. */
rgp_ahead rgp_plant_line(const rgp_plant *plant, double lag);

/* The dead time that a loop has to wait for: behind a 'predict' line, which may count a second lag as half or whole,
 * what that leaves, and two fifths at least. */
double rgp_stand_waits(const rgp_stand *on);

#endif
