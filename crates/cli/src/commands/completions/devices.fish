
# The names of this host's devices, as a table has them.
function __bradawl_devices
    for kind in UUID LABEL PARTUUID PARTLABEL
        for name in /dev/disk/by-(string lower $kind)/*
            # What is escaped is escaped as only a path may be.
            if string match -q '*\\\\*' $name
                echo $name
            else
                echo $kind=(string replace -r '.*/' '' $name)
            end
        end
    end
end
complete -c bradawl -n "__fish_bradawl_using_subcommand resolve" -a "(__bradawl_devices)"
complete -c bradawl -n "__fish_bradawl_using_subcommand draft" -a "(__bradawl_devices)"
