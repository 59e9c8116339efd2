; The boot sector of a FAT16 volume, or with -DFAT12 of a FAT12 one: all of it in one sector.
; Finds the loader in the root folder, reads it whole, and enters it.
;
; Memory map
;   7C00 down   stack
;   7C00-7DFF   this sector; the parameters of the volume are in it
;   8000-81FF   a sector of the root folder
;   8200-85FF   two sectors of the FAT: an entry of FAT12 may lie across
;   8600-8607   the first sector of the clusters, and the geometry
;   20000 up    the loader, up to the firmware's data below 640 KiB
; Called by  the master boot record, at 0000:7C00, with the drive in DL.
; Calls      the loader, at 2000:0000, with the drive in DL; the boot sector stays at 0000:7C00.
; Survives   DL, in the parameters' own field.
; Structures as in the FAT specification 1.03. Sectors are of 512 bytes, counted from the volume's start.

        bits 16
        cpu 386
        org 0x7C00
%include "names.inc"

FOLDER          equ 0x8000
FAT             equ 0x8200
DATA            equ 0x8600
TRACK           equ 0x8604              ; sectors in a track
HEADS           equ 0x8606
LOAD            equ 0x2000
ROOM            equ (639 * 1024 - 0x20000) / 512
ATTEMPTS        equ 5

%ifdef FAT12
LAST            equ 0x0FF7              ; bad, and above it the end of a chain
%else
LAST            equ 0xFFF7
%endif

CLUSTER_FIELD   equ 0x7C0D
RESERVED        equ 0x7C0E
FAT_COUNT       equ 0x7C10
ROOT_ENTRIES    equ 0x7C11
FAT_SECTORS     equ 0x7C16
GEOMETRY        equ 0x7C18
HIDDEN          equ 0x7C1C
DRIVE           equ 0x7C24

        jmp short start
        nop
        times 0x3E - ($ - $$) db 0      ; the volume's parameters

start:
        xor ax, ax
        mov ss, ax                      ; no interrupt comes before the next instruction is done
        mov sp, 0x7C00
        mov ds, ax
        cld
        mov [DRIVE], dl
        mov eax, [GEOMETRY]
        mov [TRACK], eax
        mov ah, 8                       ; the firmware's own geometry, else the volume's
        int 0x13
        jc .known
        and cx, 63
        jz .known
        mov [TRACK], cx
        inc dh                          ; 255 at most
        mov [HEADS], dh
.known:
        push ds
        pop es
        mov al, [FAT_COUNT]
        cbw
        mul word [FAT_SECTORS]
        add ax, [RESERVED]              ; the root folder
        mov cx, [ROOT_ENTRIES]
        add cx, 15
        shr cx, 4                       ; its sectors
        movzx eax, ax
        movzx edx, cx
        add edx, eax
        mov [DATA], edx

sector:
        mov bx, FOLDER
        call read_sector
        mov si, bx
.entry:
        cmp byte [si], 0                ; no entry was ever here or behind
        je missing
        test byte [si + 11], 0x18       ; part of a long name, label, or folder
        jnz .next
        pusha
        mov di, loader_name
        mov cx, 11
        repe cmpsb
        popa
        je found
.next:
        add si, 32
        cmp si, FOLDER + 512
        jb .entry
        inc ax
        loop sector
missing:
        mov si, line_missing
        jmp stop

found:
        mov ecx, [si + 28]
        dec ecx
        shr ecx, 9
        cmp ecx, ROOM - 1
        ja damaged                      ; none, or too many
        inc cx                          ; sectors to be read
        mov ax, [si + 26]
        push LOAD
        pop es
.cluster:
        push ax
        cmp ax, LAST
        jae damaged
        sub ax, 2
        jb damaged
        movzx eax, ax
        movzx edx, byte [CLUSTER_FIELD]
        mov bp, dx
        mul edx
        add eax, [DATA]
.more:
        xor bx, bx
        call read_sector
        mov dx, es
        add dx, 512 >> 4
        mov es, dx
        inc eax
        dec cx
        jz enter
        dec bp
        jnz .more
        pop ax

; The cluster after AX.
        push es
        push ds
        pop es
        mov si, ax
%ifdef FAT12
        shr ax, 1
        pushf                           ; an odd one has the upper 12 bits
        add si, ax                      ; byte of the table
        mov ax, si
        shr ax, 9
%else
        shl si, 1
        shr ax, 8
%endif
        and si, 511
        movzx eax, ax
        add ax, [RESERVED]
        mov bx, FAT
        call read_sector
%ifdef FAT12
        inc ax
        mov bh, (FAT + 512) >> 8
        call read_sector
        popf
%endif
        mov ax, [FAT + si]
%ifdef FAT12
        jnc .even
        shr ax, 4
.even:
        and ah, 0x0F
%endif
        pop es
        jmp .cluster

enter:
        mov dl, [DRIVE]
        jmp LOAD:0

; Reads sector EAX of the volume to ES:BX: by its number, else by cylinder, head and sector. Keeps every register.
read_sector:
        pushad
        add eax, [HIDDEN]
        mov di, ATTEMPTS
        xchg eax, ebp
.again:
        push dword 0
        push ebp
        push es
        push bx
        push 1
        push 16
        mov si, sp
        mov dl, [DRIVE]
        mov ah, 0x42
        int 0x13
        lea sp, [si + 16]
        jnc .done
        mov eax, ebp
        cdq
        movzx ecx, word [TRACK]
        div ecx
        inc dx
        push dx
        cdq
        mov cx, [HEADS]
        div ecx
        pop cx
        mov ch, al
        shl ah, 6
        or cl, ah
        mov dh, dl
        mov dl, [DRIVE]
        mov ax, 0x0201
        int 0x13
        jnc .done
        xor ah, ah
        int 0x13
        dec di
        jnz .again
        mov si, line_read
        jmp stop
.done:
        popad
        ret

damaged:
        mov si, line_damaged
stop:
        lodsb
        test al, al
        jz $
        xor bx, bx
        mov ah, 0x0E
        int 0x10
        jmp stop

%ifdef FAT12
line_damaged    equ line_read           ; there is no room for both
%else
line_damaged    db "keel: damaged", 0
%endif
line_read       db "keel: read error", 0
line_missing    db "keel: not found: "
loader_name     db LOADER
        times 11 - LOADER_LENGTH db " "
        db 0

        times 0x1FE - ($ - $$) db 0
        db 0x55, 0xAA
